"""Names of faces and edges that outlast edits: tags, references made from picks, rules, and how each is found again."""

from supplecast.naming.body import Body, named
from supplecast.naming.offer import offered, offered_faces
from supplecast.naming.pick import read_pick
from supplecast.naming.reference import EdgeRef, FaceRef, reference_edge, reference_face
from supplecast.naming.resolution import STOPPING, Resolution, Status
from supplecast.naming.resolve import resolve, resolve_edges, resolve_faces
from supplecast.naming.rules import Rule

__all__ = [
    "STOPPING",
    "Body",
    "EdgeRef",
    "FaceRef",
    "Resolution",
    "Rule",
    "Status",
    "named",
    "offered",
    "offered_faces",
    "read_pick",
    "reference_edge",
    "reference_face",
    "resolve",
    "resolve_edges",
    "resolve_faces",
]
