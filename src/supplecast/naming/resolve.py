"""Finding again what a reference or rule names, in the body as it is now."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from supplecast.geometry import Vec
from supplecast.naming.body import Body
from supplecast.naming.reference import (
    EdgeRef,
    FaceRef,
    Resolution,
    Rule,
    edge_context,
    edge_middle,
    edge_wide_context,
    face_context,
    face_middle,
    face_wide_context,
    widest,
)


def resolve_faces(body: Body, reference: FaceRef) -> Resolution:
    """The faces a reference leads to: one when `ok`; all pieces when the face has been `split` since."""
    return _resolve(
        body.faces_by_tag.get(reference.face, ()),
        reference,
        [lambda f: face_context(body, f), lambda f: face_wide_context(body, f)],
        lambda f: face_middle(body, f),
        "face",
    )


def resolve_edges(body: Body, reference: EdgeRef | Rule) -> Resolution:
    """The edges a reference or rule leads to."""
    if isinstance(reference, Rule):
        edges = _RULES[reference.rule](body, reference)
        if not edges:
            return Resolution("lost", (), "The rule catches no edge of this body.")
        return Resolution("ok", edges)
    a, b = sorted(reference.edge)
    return _resolve(
        body.edges_by_pair.get((a, b), ()),
        reference,
        [lambda e: edge_context(body, e), lambda e: edge_wide_context(body, e)],
        lambda e: edge_middle(body, e),
        "edge",
    )


def _resolve(
    found: Sequence[int],
    reference: FaceRef | EdgeRef,
    levels: Sequence[Callable[[int], frozenset[str]]],
    middle: Callable[[int], Vec],
    word: str,
) -> Resolution:
    if not found:
        return Resolution("lost", (), f"The picked {word} no longer exists.")
    has, lacks = set(reference.has), set(reference.lacks)
    if has or lacks:
        for context in levels:
            full = [item for item in found if has <= context(item) and not lacks & context(item)]
            if len(full) == 1:
                return Resolution("ok", (full[0],))
        if len(found) == 1:
            return Resolution("partial", (found[0],), f"What lies round the picked {word} has changed.")
        return Resolution("ambiguous", tuple(found), f"The picked {word} could now be any of {len(found)}.")
    if reference.order is not None:
        order = reference.order
        if len(found) != order.count:
            return Resolution("ambiguous", tuple(found), f"The picked {word} could now be any of {len(found)}.")
        places = {item: middle(item) for item in found}
        if widest(list(places.values())) != order.axis:
            return Resolution("ambiguous", tuple(found), f"The picked {word} could now be any of {len(found)}.")
        ranked = sorted(found, key=lambda item: places[item][order.axis])
        return Resolution("ordered", (ranked[order.index],), f"The picked {word} is told from its like by order only.")
    if len(found) > 1:
        return Resolution("split", tuple(found), f"The picked {word} has come apart into {len(found)}.")
    return Resolution("ok", (found[0],))


def _edges_of(body: Body, rule: Rule) -> tuple[int, ...]:
    edges = {e for face in body.faces_by_tag.get(rule.of, ()) for e in body.solid.face_edges[face]}
    return tuple(sorted(e for e in edges if not body.solid.degenerate_edges[e]))


def _outer_loop(body: Body, rule: Rule) -> tuple[int, ...]:
    from supplecast.kernel import measure

    faces = body.faces_by_tag.get(rule.of, ())
    return tuple(sorted({e for face in faces for e in measure.outer_loop(body.solid, face)}))


def _uprights(body: Body, rule: Rule) -> tuple[int, ...]:
    prefix = f"{rule.of}.side["
    return _between(body, lambda tags: any(tag.startswith(prefix) for tag in tags))


def _made_by(body: Body, rule: Rule) -> tuple[int, ...]:
    prefix = f"{rule.of}."
    return _between(body, lambda tags: any(tag.startswith(prefix) for tag in tags))


def _between(body: Body, wanted: Callable[[tuple[str, ...]], bool]) -> tuple[int, ...]:
    good = {face for face, tags in enumerate(body.tags) if wanted(tags)}
    return tuple(
        edge
        for edge, faces in enumerate(body.solid.faces_at_edges)
        if len(faces) == 2 and set(faces) <= good and not body.solid.degenerate_edges[edge]
    )


def _parallel(body: Body, rule: Rule) -> tuple[int, ...]:
    from supplecast.kernel import measure

    axis = "xyz".index(rule.to or "z")
    edges = []
    for index in _made_by(body, rule):
        line = measure.edge_line(body.solid, index)
        if line is not None and abs(line[1][axis]) > 1 - 1e-9:
            edges.append(index)
    return tuple(edges)


_RULES: dict[str, Callable[[Body, Rule], tuple[int, ...]]] = {
    "edges of": _edges_of,
    "outer loop": _outer_loop,
    "uprights": _uprights,
    "made by": _made_by,
    "parallel": _parallel,
}
