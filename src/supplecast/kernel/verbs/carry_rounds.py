"""Faces moved together with the rounds on their edges: those are taken off, the faces moved, and the rounds put on again."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from supplecast.errors import KernelError
from supplecast.kernel.measuring import measure
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.history import EdgeOf, FaceOf, Made, Origin, Row, VertexOf, composed
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs import blend, feature, move_face


def offset(solid: Solid, faces: Sequence[int], distance: float) -> Made:
    """Move faces by `distance` mm out of the material, as `move_face.offset` does, rounds beside them coming along.

    All faces keep their tags, the rounds too. KernelError as there, or where a round no longer fits.
    """
    near = _rounds(solid, {f for face in faces for f in measure.smooth_neighbours(solid, face)} - set(faces))
    for rounds in (near, _all_along(solid, near)):
        bare = _without(solid, tuple(rounds)) if rounds else None
        if bare is not None:
            return _carried(solid, rounds, bare, faces, distance)
    return move_face.offset(solid, faces, distance)


Rounds = Mapping[int, tuple[float, frozenset[int]]]
"""Round faces with their radii and the other faces that they run into: two along an edge, none at a corner."""


def _rounds(solid: Solid, faces: Iterable[int]) -> Rounds:
    """Faces that are rounds; nothing where one of them is something else, which then must be picked along."""
    bends = {face: measure.bend(solid, face) for face in faces}
    if None in bends.values():
        return {}
    beside = {face: frozenset(measure.smooth_neighbours(solid, face)) - bends.keys() for face in bends}
    return {face: (bent[0], beside[face]) for face, bent in bends.items() if bent}


def _all_along(solid: Solid, rounds: Rounds) -> Rounds:
    """The same with all rounds that those run on into."""
    reached, fresh = set(rounds), set(rounds)
    while fresh:
        beside = {f for face in fresh for f in measure.smooth_neighbours(solid, face)} - reached
        fresh = {face for face in beside if measure.bend(solid, face) is not None}
        reached |= fresh
    return _rounds(solid, reached)


def _carried(solid: Solid, rounds: Rounds, bare: Made, faces: Sequence[int], distance: float) -> Made:
    where = _places(bare)
    try:
        moved = composed(bare, move_face.offset(bare.solid, [where[face] for face in faces], distance))
        there = _places(moved)
        round_at = {
            edge: round_
            for round_, (_, beside) in rounds.items()
            if len(beside) == 2
            for edge in _between(moved.solid, {there[face] for face in beside})
        }
        radii: dict[float, list[int]] = {}
        for edge, round_ in round_at.items():
            radii.setdefault(rounds[round_][0], []).append(edge)
        made = blend.fillets(moved.solid, [(edges, radius) for radius, edges in radii.items()])
    except (KernelError, KeyError) as fault:  # a face that is gone has no place
        # Said of the body as it is: what the fault itself names are faces and edges of the bare one.
        sizes = ", ".join(f"{radius:g}" for radius in sorted({radius for radius, _ in rounds.values()}))
        raise KernelError(
            f"Moved by {distance:g} mm, the rounding of {sizes} mm beside the faces does not fit any more.",
            "Move them less far, or make the rounds smaller.",
            faces=tuple(faces),
            sized=True,
        ) from fault
    corners = {_about(solid, round_, rounds): round_ for round_, (_, beside) in rounds.items() if len(beside) < 2}
    return Made(made.solid, tuple(_row(row, moved, round_at, corners) for row in made.origins))


def _places(made: Made) -> dict[int, int]:
    """Where each face of the input is in the result."""
    return {source: face for face, row in enumerate(made.origins) for source in _faces(row)}


def _about(solid: Solid, corner: int, rounds: Rounds) -> frozenset[int]:
    """The faces, rounds left out, that meet where a corner's round is."""
    return frozenset().union(*(rounds[f][1] for f in measure.smooth_neighbours(solid, corner) if f in rounds))


def _without(solid: Solid, rounds: tuple[int, ...]) -> Made | None:
    try:
        return feature.removed(solid, rounds)
    except REFUSALS:
        return None


def _faces(row: Row) -> list[int]:
    return [o.sources[0].face for o in row if o.role is None and isinstance(o.sources[0], FaceOf)]


def _between(solid: Solid, faces: set[int]) -> list[int]:
    edges = [edge for edge, beside in enumerate(solid.faces_at_edges) if set(beside) == faces]
    if not edges:
        raise KernelError("The faces no longer meet.")
    return edges


def _row(row: Row, moved: Made, round_at: Mapping[int, int], corners: Mapping[frozenset[int], int]) -> Row:
    origins: list[Origin] = []
    for origin in row:
        source = origin.sources[0]
        if isinstance(source, FaceOf):
            origins += moved.origins[source.face]
        elif isinstance(source, EdgeOf) and source.edge in round_at:
            origins.append(Origin(None, (FaceOf(0, round_at[source.edge]),)))
        elif isinstance(source, VertexOf):
            meeting = frozenset(f for face in moved.solid.vertex_faces(source.vertex) for f in _faces(moved.origins[face]))
            if meeting in corners:
                origins.append(Origin(None, (FaceOf(0, corners[meeting]),)))
    return tuple(dict.fromkeys(origins))
