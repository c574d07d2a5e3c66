"""What the toolmaker must do to surfaces: textures by area and code, lettering, and prints that faces are kept smooth for; each
with where it is and which insert forms it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from supplecast import kernel
from supplecast.document import coat
from supplecast.document.coat import Coat, Finish, Lettered, Print
from supplecast.document.state import PARTS, STEEL, Entry
from supplecast.geometry import Vec
from supplecast.naming.tag import source
from supplecast.wording import show

_FORMING = tuple(role for role in STEEL if role not in ("ejector", "ejection", "fixed base", "moving base", "block"))


@dataclass(frozen=True)
class SurfaceMark:
    """A surface with something to be done: in words `what`, the toolmaker's `code`, its area in mm², the middle of it, on which
    part, and the bodies of a tool that form it.
    """

    what: str
    code: str
    area: float
    place: Vec
    part: str
    formed_by: Sequence[str]


def surface_list(bodies: Iterable[Entry], coats: Mapping[str, Coat]) -> list[SurfaceMark]:
    """All of it, in the order in which it was put on, by part."""
    everything = list(bodies)
    steel = [entry for entry in everything if entry.role in _FORMING]
    marks = []
    for entry in everything:
        if entry.role not in PARTS or not entry.is_solid:
            continue
        for _, one, worn in coat.worn(entry.body, coats):
            faces = _own(entry, one, worn, coats)
            words = _words(one)
            if words and faces:
                marks.append(_mark(entry, one, words, faces, steel))
    return marks


def _own(entry: Entry, one: Coat, worn: Sequence[int], coats: Mapping[str, Coat]) -> list[int]:
    """Of what a finish of a whole body covers, the faces that wear no other."""
    if not isinstance(one, Finish):
        return list(worn)
    seen = coat.finishes(entry.body, entry.id, coats)
    return [face for face in range(len(entry.body.tags)) if seen[face] is one]


def _words(one: Coat) -> str:
    if isinstance(one, Lettered):
        return f"{one.words} {one.way} by {show(one.depth, 3)} mm"
    if isinstance(one, Print):
        return f"kept for the print “{one.file}”, {show(one.laying.width, 1)} × {show(one.laying.height, 1)} mm"
    if one.grain in ("fine", "coarse"):
        return f"{one.grain} texture, {show(one.depth, 3)} mm deep"
    if one.code:
        return f"finished as {one.code}"
    return "no texture" if one.grain == "none" else ""


def _mark(entry: Entry, one: Coat, words: str, faces: Sequence[int], steel: Sequence[Entry]) -> SurfaceMark:
    rough = [kernel.measure.rough_face(entry.body.solid, face) for face in faces]
    area = sum(size for size, _ in rough)
    x, y, z = (sum(size * middle[k] for size, middle in rough) / max(area, 1e-12) for k in range(3))
    names = {entry.body.tags[face][0] for face in faces}
    by = [
        other.name for other in steel if any(tag in names or source(tag) in names for tags in other.body.tags for tag in tags)
    ]
    code = one.code if isinstance(one, Finish) else ""
    return SurfaceMark(words, code, area, (x, y, z), entry.name, by)
