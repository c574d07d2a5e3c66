"""Finding again what a reference or rule names, in the body as it is now, and saying how sure that is."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast.naming.body import Body
from supplecast.naming.face_rules import caught_faces
from supplecast.naming.reference import EDGE, FACE, EdgeRef, FaceRef, Kind, rows
from supplecast.naming.resolution import Resolution
from supplecast.naming.rules import Rule, caught

_FITS = 0.75  # share of what is left to go by that must agree


def resolve_faces(body: Body, reference: FaceRef | Rule) -> Resolution:
    """The face a reference leads to, all pieces when it has been `split` since; or the faces a rule catches."""
    if isinstance(reference, Rule):
        faces = caught_faces(body, reference, resolve_faces)
        return Resolution("ok", faces) if faces else Resolution("lost", (), "The rule catches no face of this body.")
    return _resolve(body, FACE, reference, (reference.face,), body.faces_by_tag.get(reference.face, ()))


def resolve_edges(body: Body, reference: EdgeRef | Rule) -> Resolution:
    """The edges a reference or rule leads to."""
    if isinstance(reference, Rule):
        edges = caught(body, reference, resolve_edges)
        return Resolution("ok", edges) if edges else Resolution("lost", (), "The rule catches no edge of this body.")
    a, b = sorted(reference.edge)
    return _resolve(body, EDGE, reference, (a, b), body.edges_by_pair.get((a, b), ()))


def resolve(body: Body, pick: FaceRef | EdgeRef | Rule) -> Resolution:
    """The faces or edges that a pick of any kind leads to."""
    if isinstance(pick, FaceRef):
        return resolve_faces(body, pick)
    if isinstance(pick, EdgeRef):
        return resolve_edges(body, pick)
    return resolve_faces(body, pick) if pick.catches == "faces" else resolve_edges(body, pick)


def _resolve(
    body: Body, kind: Kind, reference: FaceRef | EdgeRef, names: tuple[str, ...], candidates: Sequence[int]
) -> Resolution:
    word = kind.word
    if not candidates:
        return Resolution("lost", (), f"The picked {word} no longer exists.")
    if reference.order is None and not reference.has and not reference.lacks:
        if len(candidates) > 1:
            return Resolution("split", tuple(candidates), f"The picked {word} has come apart into {len(candidates)}.")
        return _unless_swallowed(body, kind, reference, names, candidates[0])
    count = reference.order.count if reference.order else len(candidates)
    by_order = _by_order(body, kind, reference, candidates)
    if not reference.has and not reference.lacks:
        return _resolved_by_order(word, candidates, by_order)
    has, lacks = frozenset(reference.has), frozenset(reference.lacks)
    around = {item: (kind.wide if reference.wide else kind.narrow)(body, item) for item in candidates}
    full = [item for item in candidates if has <= around[item] and not lacks & around[item]]
    if len(full) == 1:
        return _resolved_by_surroundings(body, kind, reference, names, candidates, full[0], by_order, count)
    if full:
        words = f"The picked {word} has come apart into {len(full)}."
        return Resolution("split", tuple(full), words)
    if len(candidates) == 1:
        only = candidates[0]
        if count > 1 and (lacks & around[only] or not has & around[only]):
            words = f"The picked {word} has become one with others of its name."
            return Resolution("merged", (only,), words)
        return Resolution("partial", (only,), f"What lies round the picked {word} has changed.")
    return _by_what_is_left(body, word, candidates, has, lacks, around)


def _unless_swallowed(body: Body, kind: Kind, reference: FaceRef | EdgeRef, names: tuple[str, ...], item: int) -> Resolution:
    """The only piece of its name, unless it lives on only as part of a face that goes by another name."""
    known = {*names, *reference.also}
    for side in kind.sides(body, item):
        mine = [tag for tag in side if tag in names]
        if mine and side[0] not in known and not any(f"{{{tag}}}" in side[0] for tag in mine):
            words = f"The picked {kind.word} has become one with another, larger one."
            return Resolution("merged", (item,), words)
    return Resolution("ok", (item,))


def _by_order(body: Body, kind: Kind, reference: FaceRef | EdgeRef, candidates: Sequence[int]) -> int | None:
    """The piece at the stored place, while there still are as many, well apart, and spread about that axis."""
    order = reference.order
    if order is None or len(candidates) != order.count or len(candidates) < 2:
        return None
    every = rows(body, kind, candidates)
    row = every[order.axis]
    even = row.spread / (len(candidates) - 1)
    if not body.solid.closed:
        return row.items[order.index] if row.gaps[order.index] >= max(0.05 * even, 1e-3) else None
    if row.gap < max(0.05 * even, 1e-3) or row.spread < max(other.spread for other in every) / 2:
        return None
    return row.items[order.index]


def _resolved_by_order(word: str, candidates: Sequence[int], by_order: int | None) -> Resolution:
    if by_order is not None:
        return Resolution("ordered", (by_order,), f"The picked {word} is told from its like by order only.")
    if len(candidates) == 1:
        return Resolution("partial", tuple(candidates), f"Only one of several like {word}s is left.")
    return Resolution("ambiguous", (), f"The picked {word} could now be any of {len(candidates)}.", tuple(candidates))


def _resolved_by_surroundings(
    body: Body,
    kind: Kind,
    reference: FaceRef | EdgeRef,
    names: tuple[str, ...],
    candidates: Sequence[int],
    item: int,
    by_order: int | None,
    count: int,
) -> Resolution:
    if by_order is not None and by_order != item:
        words = f"What lies round the picked {kind.word} and its place in order now name different ones."
        return Resolution("conflict", (item,), words, (by_order,))
    if len(candidates) > count:
        # Something has cut into pieces of this name. Was it this one? Then what is new beside it is beside its other half.
        new = kind.narrow(body, item) - set(reference.near)
        halves = [other for other in candidates if other != item and new & kind.narrow(body, other)]
        if halves:
            words = f"The picked {kind.word} seems to have been cut: only the piece in its old surroundings is taken."
            return Resolution("split", (item,), words, tuple(sorted({item, *halves})))
    return _unless_swallowed(body, kind, reference, names, item)


def _by_what_is_left(
    body: Body,
    word: str,
    candidates: Sequence[int],
    has: frozenset[str],
    lacks: frozenset[str],
    around: dict[int, frozenset[str]],
) -> Resolution:
    """Several pieces and none fits wholly: some of what told them apart may be gone altogether."""
    there = body.faces_by_tag.keys()
    has_left, lacks_left = has & there, lacks & there
    telling = len(has_left) + len(lacks_left)

    def fit(item: int) -> float:
        return (len(has_left & around[item]) + len(lacks_left - around[item])) / telling

    best, second = sorted(candidates, key=fit, reverse=True)[:2] if telling and has_left else (0, 0)
    if best != second and fit(best) >= _FITS and fit(second) <= 1 - _FITS / 2 and has_left & around[best]:
        return Resolution("partial", (best,), f"Some of what lay round the picked {word} is gone or has changed.")
    return Resolution("ambiguous", (), f"The picked {word} could now be any of {len(candidates)}.", tuple(candidates))
