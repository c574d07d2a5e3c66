"""What faces wear without being changed by it: finishes and prints, and which of them is seen where.

A step marks the faces (`naming.tag.coat`), and says here what the mark stands for. So a face keeps what it wears wherever later
steps carry it, and a change of colour builds no shape anew.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal

from supplecast import kernel
from supplecast.art.laying import Laying
from supplecast.art.look import Grain, Kind, Look
from supplecast.naming import Body
from supplecast.naming.tag import coat

Motion = tuple[float, ...]
"""A turn and a shift, by rows of a matrix (3, 4)."""

_LINKED = re.compile(r"([A-Za-z][A-Za-z0-9]*)\.of\{")


@dataclass(frozen=True)
class Finish:
    """How a body or some of its faces look. `gloss` and `tint` are shares; `grain` says what they are etched with, `depth` mm
    deep, and `code` what the toolmaker calls that. `whole` is worn by all of the body `body` that wears nothing else.
    """

    step: str
    name: str
    whole: bool
    body: str
    kind: Kind
    colour: str
    gloss: float
    tint: float
    grain: Grain
    depth: float
    code: str
    what: Literal["finish"] = "finish"

    @property
    def look(self) -> Look:
        return Look(self.kind, self.colour, self.gloss, self.tint, self.grain)


@dataclass(frozen=True)
class Print:
    """A picture on some faces: the file `asset` (its SHA-256; blank for the check card), called `file`, and how it is laid. In
    one `colour` where that is not blank; `strained` shows how far it is stretched instead.
    """

    step: str
    name: str
    file: str
    asset: str
    laying: Laying
    colour: str
    strained: bool
    what: Literal["print"] = "print"


@dataclass(frozen=True)
class Lettered:
    """Words, or a drawing, that stand out of a face by `depth` mm, or are sunk into it: told to the toolmaker, not painted."""

    step: str
    name: str
    words: str
    way: Literal["raised", "sunk"]
    depth: float
    what: Literal["lettering"] = "lettering"


Coat = Finish | Print | Lettered


def path(mark: str, coats: Mapping[str, Coat]) -> str:
    """Where a mark was made: the links it came through and the step, as `k1/fi1`; blank where that is not known. Steps that
    only carry bodies about leave their names on marks too.
    """
    through = _LINKED.findall(mark)
    ways = ("/".join([*through[k:], coat(mark)]) for k in range(len(through) + 1))
    return next((way for way in ways if way in coats), "")


def is_first(mark: str) -> bool:
    """Whether a mark stands on the face it was put on, or on that of a linked body, and not on a copy."""
    return _LINKED.sub("", mark).rstrip("}") == f"{coat(mark)}.coat"


def worn(body: Body, coats: Mapping[str, Coat]) -> list[tuple[str, Coat, tuple[int, ...]]]:
    """What the faces of a body wear, by mark, in the order in which it was put on; `coats` by path."""
    order = {name: place for place, name in enumerate(coats)}
    found = [(path(mark, coats), mark, faces) for mark, faces in body.coats.items()]
    rows = sorted((row for row in found if row[0]), key=lambda row: order[row[0]])
    return [(mark, coats[where], faces) for where, mark, faces in rows]


def finish_of(body: Body, body_id: str, coats: Mapping[str, Coat]) -> Finish | None:
    """What all of a body wears where its faces wear nothing of their own: put on it by its name, or on that of which most of
    its skin is. What was only cut with something does not look like it.
    """
    here = put_on_here(coats).values()
    own = [one for one in here if isinstance(one, Finish) and one.whole and one.body == body_id]
    if own:
        return own[-1]
    held: dict[Finish, set[int]] = {}  # by all its marks: of joined copies each has its own
    for _, one, faces in worn(body, coats):
        if isinstance(one, Finish) and one.whole:
            held.setdefault(one, set()).update(faces)
    return next((one for one, some in reversed(held.items()) if _is_most(body, some)), None)


def _is_most(body: Body, faces: Collection[int]) -> bool:
    """Whether faces are more than half of a body's skin."""
    count = len(body.tags)
    if len(faces) == count or body.solid.of_triangles:
        return 2 * len(faces) > count
    areas = [kernel.measure.rough_face(body.solid, face)[0] for face in range(count)]
    return 2 * sum(areas[face] for face in faces) > sum(areas)


def finishes(body: Body, body_id: str, coats: Mapping[str, Coat]) -> list[Finish | None]:
    """The finish that each face is seen in, (faces,): its own, else that of the whole body."""
    whole = finish_of(body, body_id, coats)
    seen: list[Finish | None] = [whole] * len(body.tags)
    for _, one, faces in worn(body, coats):
        if isinstance(one, Finish) and not one.whole:
            for face in faces:
                seen[face] = one
    return seen


def put_on_here(coats: Mapping[str, Coat]) -> dict[str, Coat]:
    """Those that steps of the document itself put on. Steel wears no others: it only carries the marks of what it forms."""
    return {where: one for where, one in coats.items() if "/" not in where}


def depths(body: Body, body_id: str, coats: Mapping[str, Coat], usual: float) -> list[float]:
    """How deep each face is etched, mm; `usual` where its finish leaves that to the part."""
    return [
        usual if one is None or one.grain == "as the part" else 0.0 if one.grain == "none" else one.depth
        for one in finishes(body, body_id, coats)
    ]


def under(link: str, coats: Mapping[str, Coat]) -> dict[str, Coat]:
    """The coats of a linked document by their path from here; what all of one of its bodies wears goes by its marks."""
    return {f"{link}/{inner}": one for inner, one in coats.items()}
