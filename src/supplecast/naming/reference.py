"""References: what is stored of a pick, made so that the same face or edge is found again after an edit.

A face is named by one tag; an edge by the tags of its two faces. Where several pieces share that name, the reference also
says which neighbouring tags the picked piece `has` and which it `lacks`, and its place in `order`, which is used alone only
as a last resort and otherwise as a second opinion.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, StringConstraints

from supplecast import kernel
from supplecast.geometry import Vec
from supplecast.naming.body import Body, Tags

Tag = Annotated[str, StringConstraints(min_length=1, max_length=4000)]


class Order(BaseModel):
    """The picked piece was number `index` of `count` along `axis` (0 x, 1 y, 2 z)."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    axis: Literal[0, 1, 2]
    index: int
    count: int


class _Reference(BaseModel):
    """`body` narrows the search where several bodies carry the tag. `near` are all tags that lay round the piece.

    `wide` says that `has` and `lacks` speak of a wider neighbourhood; `also` are further tags the picked faces carried.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    body: str | None = None
    has: tuple[Tag, ...] = ()
    lacks: tuple[Tag, ...] = ()
    near: tuple[Tag, ...] = ()
    also: tuple[Tag, ...] = ()
    wide: bool = False
    order: Order | None = None


class FaceRef(_Reference):
    """One face, by tag."""

    face: Tag


class EdgeRef(_Reference):
    """One edge, by the tags of the two faces that meet there."""

    edge: tuple[Tag, Tag]


@dataclass(frozen=True)
class Kind:
    """How faces, or edges, are looked at: their narrow and wide surroundings, the tags on their sides, their middle."""

    word: Literal["face", "edge"]
    narrow: Callable[[Body, int], frozenset[str]]
    wide: Callable[[Body, int], frozenset[str]]
    sides: Callable[[Body, int], tuple[Tags, ...]]
    middle: Callable[[Body, int], Vec]


def _around_face(body: Body, face: int) -> frozenset[str]:
    return frozenset(tag for other in body.solid.neighbours[face] for tag in body.names[other])


def _far_around_face(body: Body, face: int) -> frozenset[str]:
    around: set[str] = set(_around_face(body, face))
    for other in body.solid.neighbours[face]:
        around |= _around_face(body, other)
    return frozenset(around)


def _at_edge_ends(body: Body, edge: int) -> frozenset[str]:
    """Tags of the faces that meet the edge at its ends, without its own two."""
    own = set(body.solid.faces_at_edges[edge])
    return frozenset(tag for face in body.solid.faces_at_edge_ends[edge] - own for tag in body.names[face])


def _far_around_edge(body: Body, edge: int) -> frozenset[str]:
    """The edge's ends and what lies round its two faces: tells apart pieces whose ends look alike."""
    around: set[str] = set(_at_edge_ends(body, edge))
    for face in body.solid.faces_at_edges[edge]:
        around |= _around_face(body, face)
    return frozenset(around)


def _face_middle(body: Body, face: int) -> Vec:
    return kernel.measure.face_middle(body.solid, face)


def _edge_middle(body: Body, index: int) -> Vec:
    return kernel.edges.middle(body.solid, index)


FACE = Kind("face", _around_face, _far_around_face, lambda body, face: (body.names[face],), _face_middle)
EDGE = Kind(
    "edge",
    _at_edge_ends,
    _far_around_edge,
    lambda body, edge: tuple(body.names[face] for face in body.solid.faces_at_edges[edge]),
    _edge_middle,
)


def reference_face(body: Body, face: int, body_id: str | None = None) -> FaceRef:
    """The lasting reference to a face that was picked. Prefers the tag that fewest faces share, then the first."""
    tag = min(body.names[face], key=lambda t: len(body.faces_by_tag[t]))
    also = tuple(t for t in body.names[face] if t != tag)
    return FaceRef(face=tag, body=body_id, also=also, **_distinguishing(body, FACE, face, body.faces_by_tag[tag]))


def reference_edge(body: Body, edge: int, body_id: str | None = None) -> EdgeRef:
    """The lasting reference to an edge that was picked."""
    faces = body.solid.faces_at_edges[edge]
    pairs = [(min(a, b), max(a, b)) for a in body.names[faces[0]] for b in body.names[faces[-1]]]
    pair = min(pairs, key=lambda p: len(body.edges_by_pair[p]))
    also = tuple(dict.fromkeys(t for side in EDGE.sides(body, edge) for t in side if t not in pair))
    return EdgeRef(edge=pair, body=body_id, also=also, **_distinguishing(body, EDGE, edge, body.edges_by_pair[pair]))


Axis = Literal[0, 1, 2]


@dataclass(frozen=True)
class Row:
    """Items in order along an axis; `gap` is the least distance between neighbours, `spread` that of the ends, `gaps` how far
    each item is from its nearest neighbour, in mm.
    """

    axis: Axis
    items: tuple[int, ...]
    gap: float
    spread: float
    gaps: tuple[float, ...]


def rows(body: Body, kind: Kind, items: Sequence[int]) -> tuple[Row, Row, Row]:
    """Items, two or more, in order of their middles along each axis."""
    places = {item: kind.middle(body, item) for item in items}

    def row(axis: Axis) -> Row:
        ordered = sorted(items, key=lambda item: places[item][axis])
        along = [places[item][axis] for item in ordered]
        steps = [b - a for a, b in pairwise(along)]
        gaps = tuple(min(pair) for pair in zip([steps[0], *steps], [*steps, steps[-1]], strict=True))
        return Row(axis, tuple(ordered), min(steps), along[-1] - along[0], gaps)

    return row(0), row(1), row(2)


def _distinguishing(body: Body, kind: Kind, picked: int, siblings: Sequence[int]) -> dict[str, object]:
    """What tells the picked piece from others of its name; nothing where it is the only one."""
    if len(siblings) == 1:
        return {}
    # Along which they are furthest from changing places; of open edges, which have one face and no other name, this one from
    # changing places with any.
    row = max(rows(body, kind, siblings), key=lambda r: r.gap if body.solid.closed else r.gaps[r.items.index(picked)])
    known: dict[str, object] = {
        "order": Order(axis=row.axis, index=row.items.index(picked), count=len(siblings)),
        "near": tuple(sorted(kind.narrow(body, picked))),
    }
    for wide, context in ((False, kind.narrow), (True, kind.wide)):
        mine = context(body, picked)
        others = [context(body, item) for item in siblings if item != picked]
        if all(mine != other for other in others):
            varying = frozenset().union(mine, *others) - frozenset(mine).intersection(*others)
            return {**known, "has": tuple(sorted(mine & varying)), "lacks": tuple(sorted(varying - mine)), "wide": wide}
    return known
