"""What the faces of a body wear, made ready for the view: finishes by face, and prints cut to what they cover."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

import numpy as np

from supplecast.art import picture
from supplecast.atomic import write_atomically
from supplecast.document import coat
from supplecast.document.coat import Coat, Finish, Motion, Print
from supplecast.document.keys import digest
from supplecast.document.model import Document
from supplecast.document.state import Entry
from supplecast.errors import SuppleError
from supplecast.exchange.glb import read_skin
from supplecast.exchange.wardrobe import Wardrobe, coats_for, pixels_of, printed, prints_on
from supplecast.wire.bodies import FinishedFaces, ShownFinish, ShownPrint
from supplecast.wire.task import Task

Dressed = tuple[ShownFinish | None, list[FinishedFaces], list[ShownPrint]]


def dressed(entry: Entry, mesh: str | None, document: Document, coats: Mapping[str, Coat], task: Task) -> Dressed:
    """The finish of the whole body, those of its faces, and the prints on it; `mesh` is the blob of its triangles."""
    coats = coats_for(entry, coats)
    whole = coat.finish_of(entry.body, entry.id, coats)
    seen: dict[Finish, list[int]] = {}
    for face, finish in enumerate(coat.finishes(entry.body, entry.id, coats) if entry.body.coats else ()):
        if finish is not None and finish is not whole:
            seen.setdefault(finish, []).append(face)
    areas = [FinishedFaces(_finish(one), faces) for one, faces in seen.items()]
    prints: list[ShownPrint] = []
    for _, one, faces, motion in prints_on(entry, coats) if mesh else ():
        with suppress(SuppleError, OSError):  # a picture that is gone or damaged is told by its step
            prints.append(_print(one, faces, motion, mesh or "", task))
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
    skin = f"{digest('print 2', mesh, repr(one.laying), repr(motion), repr(faces))}.print"
    if not (blobs / skin).exists():
        held = read_skin((blobs / mesh).read_bytes())
        cut = printed(held.points, held.normals, held.triangles[np.isin(held.faces, np.array(faces))], one, motion)
        rows = np.hstack([cut.points, cut.normals, cut.places, np.repeat(cut.stretch, 3)[:, None]])
        write_atomically(blobs / skin, rows.astype("<f4").tobytes())
    picture_name = f"{digest('picture 1', one.asset, one.colour)}.png"
    if not (blobs / picture_name).exists():
        write_atomically(blobs / picture_name, picture.as_png(pixels_of(one, asset_of(task))))
    return ShownPrint(one.step, skin, picture_name, one.strained)


def asset_of(task: Task) -> Callable[[str, str], bytes]:
    """What reads the files that a document keeps beside it. SuppleError for one that is gone."""

    def read(digest: str, name: str) -> bytes:
        try:
            return (Path(task.assets) / digest).read_bytes()
        except OSError as fault:
            raise SuppleError(f"The picture “{name}” is gone.", "Choose it again.") from fault

    return read


def wardrobe_of(task: Task, document: Document, coats: Mapping[str, Coat]) -> Wardrobe:
    """What the bodies of a built document wear."""
    return Wardrobe(document, coats, asset_of(task))
