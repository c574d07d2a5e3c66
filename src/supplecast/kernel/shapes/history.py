"""Where each face of a result came from: the kernel's own history, read once and put as plain data.

Faces, edges and vertices are named by their index in the solid they belong to; a verb with several inputs numbers them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from supplecast.kernel.shapes.shape import Solid


class FaceOf(NamedTuple):
    body: int
    face: int


class EdgeOf(NamedTuple):
    body: int
    edge: int


class VertexOf(NamedTuple):
    body: int
    vertex: int


class Between(NamedTuple):
    """What lies between several faces: an edge or a corner of a body that is not there any more by itself."""

    body: int
    faces: tuple[int, ...]


Source = FaceOf | EdgeOf | VertexOf | Between | str
"""What a new face grew from; a string is the id of a sketch entity or another name chosen by the verb."""


@dataclass(frozen=True)
class Origin:
    """`role` None: a face of an input, perhaps trimmed. Otherwise a new face made in that role from `sources`."""

    role: str | None
    sources: tuple[Source, ...] = ()


@dataclass(frozen=True)
class Made:
    """A verb's result: the solid and, for each of its faces in order, its origins (first is the most telling)."""

    solid: Solid
    origins: tuple[tuple[Origin, ...], ...]


def each(shapes: Any) -> Iterator[Any]:
    """Walk a kernel list without its Python iterator, which costs about a millisecond a list."""
    count = len(shapes)
    if count == 0:
        return
    if count == 1:
        yield shapes.First()
        return
    rest = type(shapes)()
    rest.Assign(shapes)
    for _ in range(count):
        yield rest.First()
        rest.RemoveFirst()


class Ledger:
    """Collects origins for the faces of one or more result solids while a verb's history is read."""

    def __init__(self, results: Sequence[Solid]) -> None:
        self.results = results
        self.rows: list[list[list[Origin]]] = [[[] for _ in range(r.face_count)] for r in results]

    def note(self, shape: Any, origin: Origin) -> bool:
        """Credit `origin` to the face `shape`, wherever among the results it is; False if it is in none."""
        kept = False
        for result, rows in zip(self.results, self.rows, strict=True):
            index = result.find_face(shape)
            if index is not None:
                kept = True
                if origin not in rows[index]:
                    rows[index].append(origin)
        return kept

    def kept(self, inputs: Sequence[Solid], modified: Callable[[Any], Any]) -> None:
        """Read Modified for every face of the inputs; a face without any is looked for unchanged."""
        for number, solid in enumerate(inputs):
            for index in range(solid.face_count):
                face = solid.face(index)
                origin = Origin(None, (FaceOf(number, index),))
                if not any([self.note(new, origin) for new in each(modified(face))]):
                    self.note(face, origin)

    def made(self) -> list[Made]:
        return [
            Made(result, tuple(tuple(origins) for origins in rows))
            for result, rows in zip(self.results, self.rows, strict=True)
        ]


Row = tuple[Origin, ...]


def unchanged(solid: Solid) -> tuple[Row, ...]:
    """A row for each face of a solid that says it is itself."""
    return tuple((Origin(None, (FaceOf(0, index),)),) for index in range(solid.face_count))


def traced_to(whole: Made, parts: Sequence[Sequence[Row]]) -> Made:
    """A boolean's history told by what its inputs were made from: `parts` are the rows of each input's faces."""
    rows = []
    for row in whole.origins:
        origins: list[Origin] = []
        for origin in row:
            source = origin.sources[0]
            assert isinstance(source, FaceOf)
            origins += parts[source.body][source.face]
        rows.append(tuple(dict.fromkeys(origins)))
    return Made(whole.solid, tuple(rows))


def composed(first: Made, second: Made) -> Made:
    """The history of `second`, whose first input was `first.solid`, told in terms of what `first` was made from; of further
    inputs it tells as before.
    """
    rows = []
    for origins in second.origins:
        row: list[Origin] = []
        for origin in origins:
            source = origin.sources[0] if origin.sources else ""
            if origin.role is None and isinstance(source, FaceOf) and source.body == 0:
                row.extend(o for o in first.origins[source.face] if o not in row)
            else:
                row.append(origin)
        rows.append(tuple(row))
    return Made(second.solid, tuple(rows))
