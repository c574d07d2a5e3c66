"""A solid whose faces carry tags, and how tags pass through a verb by the kernel's history.

A tag says which step made the face, in what role and from what: `p81.side[L2]`, `b07.inner{p81.start}`,
`w2c.blend{p81.side[L1]|p81.side[L2]}`. A face that came from several keeps all their tags, the most telling first.
"""

from __future__ import annotations

import logging
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from supplecast import kernel
from supplecast.naming.tag import coat

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made, Origin, Source
    from supplecast.kernel.shapes.shape import Solid

Tags = tuple[str, ...]
_COPIES = ("copy", "mirror")
log = logging.getLogger(__name__)


@dataclass(frozen=True, eq=False)
class Body:
    """A solid and the tags of its faces, in the solid's face order."""

    solid: Solid
    tags: tuple[Tags, ...]

    @cached_property
    def names(self) -> tuple[Tags, ...]:
        """The tags that are names, and no marks of what a face wears."""
        if not any(coat(tag) for tags in self.tags for tag in tags):
            return self.tags
        return tuple(tuple(tag for tag in tags if not coat(tag)) for tags in self.tags)

    @cached_property
    def coats(self) -> Mapping[str, tuple[int, ...]]:
        """The faces that wear a finish or a print, by its mark."""
        worn: dict[str, list[int]] = defaultdict(list)
        for face, tags in enumerate(self.tags):
            for tag in tags:
                if coat(tag):
                    worn[tag].append(face)
        return {tag: tuple(faces) for tag, faces in worn.items()}

    @cached_property
    def faces_by_tag(self) -> Mapping[str, tuple[int, ...]]:
        by_tag: dict[str, list[int]] = defaultdict(list)
        for face, tags in enumerate(self.names):
            for tag in tags:
                by_tag[tag].append(face)
        return {tag: tuple(faces) for tag, faces in by_tag.items()}

    @cached_property
    def edges_by_pair(self) -> Mapping[tuple[str, str], tuple[int, ...]]:
        """Edges by any tag of the one face and any tag of the other, the pair sorted."""
        by_pair: dict[tuple[str, str], list[int]] = defaultdict(list)
        # An open edge of a surface has one face only, as a seam has: but a seam is no edge that anybody means.
        opened = None if self.solid.closed else set(kernel.openings.open_edges(self.solid))
        for edge, faces in enumerate(self.solid.faces_at_edges):
            if self.solid.degenerate_edges[edge] or (opened is not None and len(faces) == 1 and edge not in opened):
                continue
            for a in self.names[faces[0]]:
                for b in self.names[faces[-1]]:
                    pair = (a, b) if a <= b else (b, a)
                    if not by_pair[pair] or by_pair[pair][-1] != edge:
                        by_pair[pair].append(edge)
        return {pair: tuple(edges) for pair, edges in by_pair.items()}

    def edge_name(self, edge: int) -> str:
        faces = self.solid.faces_at_edges[edge]
        return "|".join(sorted((self.tags[faces[0]][0], self.tags[faces[-1]][0])))

    def labelled(self, label: str) -> Body:
        """The same body with a label on every tag, for one of several made alike: `h1.wall[p3]`."""
        return Body(self.solid, tuple(tuple(f"{tag}[{label}]" for tag in tags) for tags in self.tags))

    def tagged(self, prefix: str) -> Body:
        """The same body with every tag told as seen from a step: `k1.of{tag}`."""
        return Body(self.solid, tuple(tuple(f"{prefix}.of{{{tag}}}" for tag in tags) for tags in self.tags))


def named(made: Made, step: str, inputs: Sequence[Body] = (), lineage: Mapping[str, Sequence[str]] | None = None) -> Body:
    """The result of a verb with tags: kept faces keep theirs, new ones are named after `step`, their role and source.

    `lineage` gives, for a sketch entity that was split off others, the ids of those: its faces carry their names too. A face
    without any history takes the name of the one input face that lies on the same surface, else a weak tag from its
    neighbours, and is logged.
    """
    rows: list[Tags] = []
    for origins in made.origins:
        tags: list[str] = []
        for origin in sorted(origins, key=lambda o: o.role is not None):
            for tag in _tags_of(origin, step, inputs, lineage or {}):
                if tag not in tags:
                    tags.append(tag)
            tags += [mark for mark in _marks_of(origin, step, inputs) if mark not in tags]
        rows.append(tuple(tags))
    for face, known in enumerate(rows):
        if not known:
            rows[face] = _by_surface(made.solid, face, inputs) or _by_neighbours(made.solid, face, step, rows)
            log.warning("face %d of step %s has no history; it is called %s", face, step, rows[face][0])
    return Body(made.solid, tuple(rows))


def _by_surface(solid: Solid, face: int, inputs: Sequence[Body]) -> Tags:
    mine = kernel.measure.surface_key(solid, face)
    if mine is None:
        return ()
    names = {
        body.tags[other]
        for body in inputs
        for other in range(body.solid.face_count)
        if kernel.measure.surface_key(body.solid, other) == mine
    }
    return names.pop() if len(names) == 1 else ()


def _by_neighbours(solid: Solid, face: int, step: str, rows: Sequence[Tags]) -> Tags:
    around = sorted({rows[other][0] for other in solid.neighbours[face] if rows[other]})
    return (f"{step}.?{{{'|'.join(around)}}}",)


def _tags_of(origin: Origin, step: str, inputs: Sequence[Body], lineage: Mapping[str, Sequence[str]]) -> Tags:
    if origin.role is None:
        return _source_tags(origin.sources[0], inputs)
    if not origin.sources:
        return (f"{step}.{origin.role}",)
    source = origin.sources[0]
    if isinstance(source, str):
        entity, _, rest = source.partition("~")
        tail = f"~{rest}" if rest else ""
        return tuple(f"{step}.{origin.role}[{name}{tail}]" for name in (entity, *lineage.get(entity, ())))
    return (f"{step}.{origin.role}{{{_source_name(source, inputs)}}}",)


def _marks_of(origin: Origin, step: str, inputs: Sequence[Body]) -> Tags:
    """What the copy of a face wears: all that the face does."""
    if origin.role is None or not origin.role.startswith(_COPIES) or not origin.sources:
        return ()
    source = origin.sources[0]
    if not isinstance(source, kernel.history.FaceOf):
        return ()
    return tuple(f"{step}.{origin.role}{{{tag}}}" for tag in inputs[source.body].tags[source.face] if coat(tag))


def _source_tags(source: Source, inputs: Sequence[Body]) -> Tags:
    assert isinstance(source, kernel.history.FaceOf)
    return inputs[source.body].tags[source.face]


def _source_name(source: Source, inputs: Sequence[Body]) -> str:
    assert not isinstance(source, str)
    body = inputs[source[0]]
    if isinstance(source, kernel.history.FaceOf):
        return body.tags[source.face][0]
    if isinstance(source, kernel.history.Between):
        return "|".join(sorted({body.tags[face][0] for face in source.faces}))
    if isinstance(source, kernel.history.EdgeOf):
        return body.edge_name(source.edge)
    return "|".join(sorted(body.tags[face][0] for face in body.solid.vertex_faces(source.vertex)))
