"""Which faces of a body a rule catches."""

from __future__ import annotations

from collections.abc import Callable

from supplecast import kernel
from supplecast.geometry import STANDARD_AXES, dot
from supplecast.naming.body import Body
from supplecast.naming.reference import FaceRef
from supplecast.naming.resolution import Resolution
from supplecast.naming.rules import Rule
from supplecast.naming.tag import made_by, maker, role

FaceResolver = Callable[[Body, FaceRef], Resolution]
_INSIDE = "inner"
_BETWEEN = ("inner", "rim")
_NEAR = 1e-6  # mm
_STRAIGHT = 1e-9


def caught_faces(body: Body, rule: Rule, resolve: FaceResolver) -> tuple[int, ...]:
    """The faces a rule catches, sorted; `resolve` finds the faces that rules start from."""
    return tuple(sorted(_CATCH[rule.rule](body, rule, resolve)))


def _all_faces(body: Body) -> range:
    return range(body.solid.face_count)


def _every(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return set(_all_faces(body))


def _start(body: Body, rule: Rule, resolve: FaceResolver) -> tuple[int, ...]:
    assert rule.face is not None
    return resolve(body, rule.face).items


def _smooth(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    known: set[int] = set()
    waiting = list(_start(body, rule, resolve))
    while waiting:
        face = waiting.pop()
        if face not in known:
            known.add(face)
            waiting += kernel.measure.smooth_neighbours(body.solid, face)
    return known


def _made_by(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return {face for face in _all_faces(body) if made_by(body.names[face], rule.of or "")}


def _flat(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return {face for face in _all_faces(body) if kernel.measure.is_flat(body.solid, face)}


def _round(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    radii = [bend[0] for face in _start(body, rule, resolve) if (bend := kernel.measure.bend(body.solid, face))]
    bends = ((face, kernel.measure.bend(body.solid, face)) for face in _all_faces(body))
    return {face for face, bend in bends if bend and any(abs(bend[0] - radius) < _NEAR for radius in radii)}


def _square(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    way = STANDARD_AXES[rule.to or "z"].direction
    normals = ((face, kernel.measure.flat_frame(body.solid, face).normal) for face in _flat(body, rule, resolve))
    return {face for face, normal in normals if abs(dot(normal, way)) > 1 - _STRAIGHT}


def _along(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    way = STANDARD_AXES[rule.to or "z"].direction
    return {face for face in _all_faces(body) if kernel.datums.runs_along(body.solid, face, way)}


def _reaching(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    sign, axis = rule.side or "+z"
    place, high = "xyz".index(axis), sign == "+"
    return {face for face in _all_faces(body) if kernel.measure.reaches(body.solid, face, place, high=high)}


def _inner(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return {face for face in _all_faces(body) if _in_shell(body, face, rule.of, (_INSIDE,))}


def _outer(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return {face for face in _all_faces(body) if not _in_shell(body, face, rule.of, _BETWEEN)}


def _in_shell(body: Body, face: int, step: str | None, roles: tuple[str, ...]) -> bool:
    return any(role(tag) in roles and step in (None, maker(tag)) for tag in body.tags[face])


def _all(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return set.intersection(*(set(caught_faces(body, inner, resolve)) for inner in rule.rules))


def _any(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return set().union(*(caught_faces(body, inner, resolve) for inner in rule.rules))


def _not(body: Body, rule: Rule, resolve: FaceResolver) -> set[int]:
    return set(_all_faces(body)) - set(caught_faces(body, rule.rules[0], resolve))


_CATCH: dict[str, Callable[[Body, Rule, FaceResolver], set[int]]] = {
    "every face": _every,
    "smooth faces": _smooth,
    "faces made by": _made_by,
    "flat faces": _flat,
    "round faces": _round,
    "faces square to": _square,
    "faces along": _along,
    "faces reaching": _reaching,
    "inner faces": _inner,
    "outer faces": _outer,
    "and": _all,
    "or": _any,
    "not": _not,
}
