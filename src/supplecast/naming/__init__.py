"""Names of faces and edges that outlast edits: tags, references made from picks, rules, and how each is found again."""

from supplecast.naming.body import Body, named
from supplecast.naming.reference import EdgeRef, FaceRef, Resolution, Rule, reference_edge, reference_face
from supplecast.naming.resolve import resolve_edges, resolve_faces

__all__ = [
    "Body",
    "EdgeRef",
    "FaceRef",
    "Resolution",
    "Rule",
    "named",
    "reference_edge",
    "reference_face",
    "resolve_edges",
    "resolve_faces",
]
