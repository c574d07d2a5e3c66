"""What the faces of a body wear, made ready for the view: finishes by face, and prints cut to what they cover."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path

import numpy as np

from supplecast.art import picture
from supplecast.art.decal import Decal, decal
from supplecast.atomic import write_atomically
from supplecast.document import coat
from supplecast.document.coat import Coat, Finish, Motion, Print
from supplecast.document.keys import digest
from supplecast.document.model import Document
from supplecast.document.state import Entry
from supplecast.errors import SuppleError
from supplecast.exchange.triangles import Skin, read_skin
from supplecast.geometry import Floats
from supplecast.wire.bodies import FinishedFaces, ShownFinish, ShownPrint
from supplecast.wire.task import Task

Dressed = tuple[ShownFinish | None, list[FinishedFaces], list[ShownPrint]]


def dressed(entry: Entry, mesh: str | None, document: Document, coats: Mapping[str, Coat], task: Task) -> Dressed:
    """The finish of the whole body, those of its faces, and the prints on it; `mesh` is the blob of its triangles."""
    worn = coat.worn(entry.body, coats)
    whole = coat.finish_of(entry.body, entry.id, coats)
    seen: dict[Finish, list[int]] = {}
    for face, one in enumerate(coat.finishes(entry.body, entry.id, coats) if worn else ()):
        if one is not None and one is not whole:
            seen.setdefault(one, []).append(face)
    areas = [FinishedFaces(_finish(one), faces) for one, faces in seen.items()]
    prints: list[ShownPrint] = []
    if mesh and any(isinstance(one, Print) for _, one, _ in worn):
        moved = dict(entry.moved)
        for mark, print_, on in worn:
            if isinstance(print_, Print) and (mark in moved or coat.is_first(mark)):
                with suppress(SuppleError, OSError):  # a picture that is gone or damaged is told by its step
                    prints.append(_print(print_, on, moved.get(mark), mesh, task))
    return _finish(whole) if whole else _usual(entry, document), areas, prints


def _usual(entry: Entry, document: Document) -> ShownFinish | None:
    """What the material looks like, of what is made of it and was given no colour."""
    look = document.made_of.look
    held = document.looks.get(entry.id)
    if look is None or entry.role not in ("part", "mesh") or (held and held.colour):
        return None
    return ShownFinish("", document.resin, look.kind, look.colour, look.gloss, look.tint, "none")


def _finish(one: Finish) -> ShownFinish:
    return ShownFinish(one.step, one.name, one.kind, one.colour, one.gloss, one.tint, one.grain)


def _print(one: Print, faces: Sequence[int], motion: Motion | None, mesh: str, task: Task) -> ShownPrint:
    blobs = Path(task.blobs)
    skin = f"{digest('print 1', mesh, repr(one.laying), repr(motion), repr(faces))}.print"
    if not (blobs / skin).exists():
        cut = printed(read_skin((blobs / mesh).read_bytes()), faces, one, motion)
        rows = np.hstack([cut.points, cut.normals, cut.places, np.repeat(cut.stretch, 3)[:, None]])
        write_atomically(blobs / skin, rows.astype("<f4").tobytes())
    return ShownPrint(one.step, skin, painted(one, task), one.strained)


def printed(skin: Skin, faces: Sequence[int], one: Print, motion: Motion | None) -> Decal:
    """The part of a print that lies on faces of a skin which has gone by a motion since."""
    picked = np.isin(skin.faces, np.array(faces))
    turn, shift = (np.eye(3), np.zeros(3)) if motion is None else _split(motion)
    points = (skin.points - shift) @ turn  # back to where it was laid
    cut = decal(points, skin.normals @ turn, skin.triangles[picked], one.laying)
    return Decal(cut.points @ turn.T + shift, cut.normals @ turn.T, cut.places, cut.stretch, cut.source, cut.covered)


def _split(motion: Motion) -> tuple[Floats, Floats]:
    matrix = np.array(motion).reshape(3, 4)
    return matrix[:, :3], matrix[:, 3]


def painted(one: Print, task: Task) -> str:
    """The blob of a print's picture, made unless it is there."""
    name = f"{digest('picture 1', one.asset, one.colour)}.png"
    target = Path(task.blobs) / name
    if not target.exists():
        write_atomically(target, picture.as_png(pixels_of(one, Path(task.assets))))
    return name


def pixels_of(one: Print, assets: Path) -> picture.Pixels:
    """The pixels of a print's picture, in one colour where it is printed so."""
    held = picture.pixels((assets / one.asset).read_bytes()) if one.asset else picture.check_card()
    return picture.in_one(held, one.colour) if one.colour else held
