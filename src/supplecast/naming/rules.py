"""Rules: edges, and faces, caught by what they are instead of one by one, so that a pick lasts through changes."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from supplecast import kernel
from supplecast.naming.body import Body, Tags
from supplecast.naming.reference import EdgeRef, FaceRef, Tag
from supplecast.naming.resolution import Resolution
from supplecast.naming.tag import made_by, maker, role

RuleName = Literal[
    "edges of",
    "outer loop",
    "inner loops",
    "between",
    "tangent chain",
    "opening",
    "same radius",
    "convex",
    "concave",
    "parallel",
    "uprights",
    "made by",
    "every",
    "and",
    "or",
    "not",
    "every face",
    "smooth faces",
    "faces made by",
    "flat faces",
    "round faces",
    "faces square to",
    "faces along",
    "faces reaching",
    "inner faces",
    "outer faces",
]
Side = Literal["+x", "-x", "+y", "-y", "+z", "-z"]
_NEEDS: dict[str, str] = {
    "edges of": "of",
    "outer loop": "of",
    "inner loops": "of",
    "between": "of",
    "tangent chain": "edge",
    "opening": "edge",
    "same radius": "edge",
    "parallel": "to",
    "uprights": "of",
    "made by": "of",
    "and": "rules",
    "or": "rules",
    "not": "rules",
    "smooth faces": "face",
    "faces made by": "of",
    "round faces": "face",
    "faces square to": "to",
    "faces along": "to",
    "faces reaching": "side",
}
_JOINS = ("and", "or", "not")


class Rule(BaseModel):
    """`edges of`, `outer loop`, `inner loops`: of the face tagged `of` · `between` the faces `of` and `other` ·
    `tangent chain` through, the `opening` of a surface at, and `same radius` as, the picked `edge` ·
    `convex`, `concave`, and `parallel` to an axis `to`:
    of the whole body or of what step `of` made · `uprights`: between the sides of extrusion `of` · `made by` step `of` ·
    `every` edge of the body ·
    `and`, `or`, `not`: of other `rules`, which all catch edges or all catch faces.

    Faces are caught by: `every face` · `smooth faces`: those that run into the picked `face` smoothly, and on from there ·
    `faces made by` step `of` · `flat faces` · `round faces` of the same radius as the picked `face` · `faces square to` an axis
    `to`, flat ones; `faces along` it, flat or round · `faces reaching` the body's `side` · `inner faces` and `outer faces` of
    shells, or of the shell that step `of` made.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    rule: RuleName
    of: Tag | None = None
    other: Tag | None = None
    to: Literal["x", "y", "z"] | None = None
    edge: EdgeRef | None = None
    face: FaceRef | None = None
    side: Side | None = None
    rules: tuple[Rule, ...] = Field(default=(), max_length=20)
    body: str | None = None

    @model_validator(mode="after")
    def _whole(self) -> Rule:
        need = _NEEDS.get(self.rule)
        if need and not getattr(self, need):
            raise ValueError(f"the rule “{self.rule}” needs “{need}”")
        if self.rule == "between" and self.other is None:
            raise ValueError("the rule “between” needs “other”")
        if self.rule == "not" and len(self.rules) != 1:
            raise ValueError("the rule “not” takes one rule")
        if len({inner.catches for inner in self.rules}) > 1:
            raise ValueError(f"the rule “{self.rule}” takes rules for edges or rules for faces, not both at once")
        return self

    @property
    def catches(self) -> Literal["faces", "edges"]:
        """What the rule catches."""
        if self.rule in _JOINS:
            return self.rules[0].catches
        return "faces" if "face" in self.rule else "edges"

    def names(self) -> list[str]:
        """Every tag and step the rule speaks of."""
        names = [name for name in (self.of, self.other) if name]
        names += self.edge.edge if self.edge else ()
        names += (self.face.face,) if self.face else ()
        for inner in self.rules:
            names += inner.names()
        return names


Resolver = Callable[[Body, EdgeRef], Resolution]


def caught(body: Body, rule: Rule, resolve: Resolver) -> tuple[int, ...]:
    """The edges a rule catches, sorted; `resolve` finds the edges that rules start from."""
    degenerate = body.solid.degenerate_edges
    return tuple(sorted(edge for edge in _CATCH[rule.rule](body, rule, resolve) if not degenerate[edge]))


def _of_face(body: Body, tag: str | None, loops: Callable[[Any, int], Iterable[int]]) -> set[int]:
    return {edge for face in body.faces_by_tag.get(tag or "", ()) for edge in loops(body.solid, face)}


def _edges_of(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return _of_face(body, rule.of, lambda solid, face: solid.face_edges[face])


def _outer_loop(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return _of_face(body, rule.of, kernel.edges.outer_loop)


def _inner_loops(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return _of_face(body, rule.of, kernel.edges.inner_loops)


def _between(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    a, b = sorted((rule.of or "", rule.other or ""))
    return set(body.edges_by_pair.get((a, b), ()))


def _chain(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return {edge for start in _start(body, rule, resolve) for edge in kernel.edges.chain(body.solid, start)}


def _opening(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return set(kernel.openings.whole(body.solid, _start(body, rule, resolve)))


def _same_radius(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    radii = {kernel.edges.radius(body.solid, start) for start in _start(body, rule, resolve)} - {None}
    every = ((e, kernel.edges.radius(body.solid, e)) for e in range(body.solid.number_of_edges))
    return {edge for edge, radius in every if radius and any(abs(radius - r) < 1e-6 for r in radii if r)}


def _start(body: Body, rule: Rule, resolve: Resolver) -> tuple[int, ...]:
    assert rule.edge is not None
    return resolve(body, rule.edge).items


def _bent(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return {e for e in _within(body, rule) if kernel.edges.bend(body.solid, e) == rule.rule}


def _parallel(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    axis = "xyz".index(rule.to or "z")
    lines = ((e, kernel.edges.line(body.solid, e)) for e in _within(body, rule))
    return {edge for edge, line in lines if line is not None and abs(line[1][axis]) > 1 - 1e-9}


def _within(body: Body, rule: Rule) -> Iterable[int]:
    """All edges, or those that a step made."""
    return range(body.solid.number_of_edges) if rule.of is None else _touching(body, lambda tags: made_by(tags, rule.of or ""))


def _touching(body: Body, meant: Callable[[Tags], bool]) -> set[int]:
    """The edges of the faces whose tags are meant."""
    good = {face for face, tags in enumerate(body.tags) if meant(tags)}
    return {edge for face in good for edge in body.solid.face_edges[face] if len(body.solid.faces_at_edges[edge]) == 2}


def _made_by(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return _touching(body, lambda tags: made_by(tags, rule.of or ""))


def _every(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return {edge for edge, faces in enumerate(body.solid.faces_at_edges) if len(faces) == 2}


def _uprights(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    def side(tags: Tags) -> bool:
        return any(maker(tag) == rule.of and role(tag) == "side" for tag in tags)

    good = {face for face, tags in enumerate(body.tags) if side(tags)}
    return {e for e in _touching(body, side) if set(body.solid.faces_at_edges[e]) <= good}


def _all(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return set.intersection(*(set(caught(body, inner, resolve)) for inner in rule.rules))


def _any(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return set().union(*(caught(body, inner, resolve) for inner in rule.rules))


def _not(body: Body, rule: Rule, resolve: Resolver) -> set[int]:
    return set(range(body.solid.number_of_edges)) - set(caught(body, rule.rules[0], resolve))


_CATCH: dict[str, Callable[[Body, Rule, Resolver], set[int]]] = {
    "edges of": _edges_of,
    "outer loop": _outer_loop,
    "inner loops": _inner_loops,
    "between": _between,
    "tangent chain": _chain,
    "opening": _opening,
    "same radius": _same_radius,
    "convex": _bent,
    "concave": _bent,
    "parallel": _parallel,
    "uprights": _uprights,
    "made by": _made_by,
    "every": _every,
    "and": _all,
    "or": _any,
    "not": _not,
}
