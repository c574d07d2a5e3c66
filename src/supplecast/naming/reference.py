"""References: what is stored of a pick, made so that the same face or edge is found again after an edit.

A face is named by one tag; an edge by the tags of its two faces. Where several pieces share that name, the reference also
says which neighbouring tags the picked piece `has` and which it `lacks`, and only as a last resort its place in `order`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, StringConstraints

from supplecast.geometry import Vec
from supplecast.naming.body import Body

Tag = Annotated[str, StringConstraints(min_length=1, max_length=4000)]
Status = Literal["ok", "ordered", "split", "partial", "ambiguous", "lost"]


class Order(BaseModel):
    """The picked piece was number `index` of `count` along `axis` (0 x, 1 y, 2 z)."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    axis: Literal[0, 1, 2]
    index: int
    count: int


class FaceRef(BaseModel):
    """One face, by tag. `body` narrows the search where several bodies carry the tag."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    face: Tag
    body: str | None = None
    has: tuple[Tag, ...] = ()
    lacks: tuple[Tag, ...] = ()
    order: Order | None = None


class EdgeRef(BaseModel):
    """One edge, by the tags of the two faces that meet there."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    edge: tuple[Tag, Tag]
    body: str | None = None
    has: tuple[Tag, ...] = ()
    lacks: tuple[Tag, ...] = ()
    order: Order | None = None


class Rule(BaseModel):
    """Edges caught by a rule instead of one by one, so that the pick lasts through changes.

    `edges of` and `outer loop` take a face tag in `of`; `uprights` (edges between the sides of an extrusion) and `made by`
    take a step id; `parallel` takes an axis in `to` and, in `of`, the step whose edges are meant.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    rule: Literal["edges of", "outer loop", "uprights", "made by", "parallel"]
    of: Tag
    to: Literal["x", "y", "z"] | None = None
    body: str | None = None


@dataclass(frozen=True)
class Resolution:
    """What a reference leads to: `items` are face or edge indices; `words` says what is wrong when status is not ok."""

    status: Status
    items: tuple[int, ...] = ()
    words: str = ""


def face_context(body: Body, face: int) -> frozenset[str]:
    return frozenset(tag for other in body.solid.neighbours[face] for tag in body.tags[other])


def edge_context(body: Body, edge: int) -> frozenset[str]:
    """Tags of the faces that meet the edge at its ends, without its own two."""
    own = set(body.solid.faces_at_edges[edge])
    return frozenset(tag for face in body.solid.faces_at_edge_ends[edge] - own for tag in body.tags[face])


def edge_wide_context(body: Body, edge: int) -> frozenset[str]:
    """The edge's context and that of its two faces: tells apart pieces whose ends look alike."""
    around: set[str] = set(edge_context(body, edge))
    for face in body.solid.faces_at_edges[edge]:
        around |= face_context(body, face)
    return frozenset(around)


def face_wide_context(body: Body, face: int) -> frozenset[str]:
    around: set[str] = set(face_context(body, face))
    for other in body.solid.neighbours[face]:
        around |= face_context(body, other)
    return frozenset(around)


def reference_face(body: Body, face: int, body_id: str | None = None) -> FaceRef:
    """The lasting reference to a face that was picked. Prefers the tag that fewest faces share."""
    tag = min(body.tags[face], key=lambda t: len(body.faces_by_tag[t]))
    has, lacks, order = _tell_apart(
        face,
        body.faces_by_tag[tag],
        [lambda f: face_context(body, f), lambda f: face_wide_context(body, f)],
        lambda f: face_middle(body, f),
    )
    return FaceRef(face=tag, body=body_id, has=has, lacks=lacks, order=order)


def reference_edge(body: Body, edge: int, body_id: str | None = None) -> EdgeRef:
    """The lasting reference to an edge that was picked."""
    faces = body.solid.faces_at_edges[edge]
    pairs = [(min(a, b), max(a, b)) for a in body.tags[faces[0]] for b in body.tags[faces[-1]]]
    a, b = min(pairs, key=lambda p: len(body.edges_by_pair[p]))
    has, lacks, order = _tell_apart(
        edge,
        body.edges_by_pair[(a, b)],
        [lambda e: edge_context(body, e), lambda e: edge_wide_context(body, e)],
        lambda e: edge_middle(body, e),
    )
    return EdgeRef(edge=(a, b), body=body_id, has=has, lacks=lacks, order=order)


def widest(places: Sequence[Vec]) -> Literal[0, 1, 2]:
    """The axis along which points spread most."""
    axes: tuple[Literal[0, 1, 2], ...] = (0, 1, 2)
    return max(axes, key=lambda a: max(p[a] for p in places) - min(p[a] for p in places))


def face_middle(body: Body, face: int) -> Vec:
    from supplecast.kernel import measure

    return measure.face_middle(body.solid, face)


def edge_middle(body: Body, index: int) -> Vec:
    from supplecast.kernel import measure

    return measure.edge_middle(body.solid, index)


def _tell_apart(
    picked: int,
    siblings: Sequence[int],
    levels: Sequence[Callable[[int], frozenset[str]]],
    middle: Callable[[int], Vec],
) -> tuple[tuple[str, ...], tuple[str, ...], Order | None]:
    if len(siblings) == 1:
        return (), (), None
    for context in levels:
        mine = context(picked)
        others = [context(s) for s in siblings if s != picked]
        if all(mine != other for other in others):
            varying = frozenset().union(mine, *others) - frozenset(mine).intersection(*others)
            return tuple(sorted(mine & varying)), tuple(sorted(varying - mine)), None
    places = [middle(s) for s in siblings]
    axis = widest(places)
    ranked = sorted(siblings, key=lambda s: middle(s)[axis])
    return (), (), Order(axis=axis, index=ranked.index(picked), count=len(siblings))
