"""What bodies wear when they leave the program: meshed with the look of each face and what is printed on it."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from supplecast import art
from supplecast.art import picture
from supplecast.art.look import Look
from supplecast.art.sheet import Turned
from supplecast.document import coat
from supplecast.document.coat import Coat, Motion, Print
from supplecast.document.model import Document
from supplecast.document.state import STEEL, Entry
from supplecast.errors import SuppleError
from supplecast.exchange.triangles import ROLE_COLOURS, Part, Printed
from supplecast.geometry import Floats, Ints, Rows

if TYPE_CHECKING:
    from supplecast.art.decal import Decal
    from supplecast.kernel.meshing.mesh import Mesh

_ASIDE = 0.3


def _nothing(digest: str, name: str) -> bytes:
    raise SuppleError(f"The picture “{name}” is not at hand.", "Choose it again.")


@dataclass(frozen=True)
class Wardrobe:
    """What the bodies of a document wear: `coats` by path, and `asset`, which gives a picture by its SHA-256 and name."""

    document: Document = field(default_factory=Document)
    coats: Mapping[str, Coat] = field(default_factory=dict)
    asset: Callable[[str, str], bytes] = _nothing

    def part(self, entry: Entry, mesh: Mesh) -> Part:
        """A meshed body in its looks, with its prints."""
        looks, of = self.looks(entry)
        return Part(entry.name, entry.role, mesh, looks, of, tuple(self._prints(entry, mesh)))

    def looks(self, entry: Entry) -> tuple[tuple[Look, ...], tuple[int, ...]]:
        """The looks that a body's faces have, that of most first, and which of them each face has, (faces,)."""
        whole = self._whole(entry)
        seen: dict[Look, int] = {whole: 0}
        finishes = coat.finishes(entry.body, entry.id, coats_for(entry, self.coats)) if entry.body.coats else []
        of = [seen.setdefault(one.look if one else whole, len(seen)) for one in finishes]
        return tuple(seen), tuple(of)

    def _whole(self, entry: Entry) -> Look:
        finish = coat.finish_of(entry.body, entry.id, coats_for(entry, self.coats))
        if finish is not None:
            return finish.look
        held = self.document.looks.get(entry.id)
        usual = self.document.made_of.look
        if usual is not None and entry.role in ("part", "mesh") and not (held and held.colour):
            return usual
        colour = held.colour if held and held.colour else ROLE_COLOURS[entry.role]
        return Look("clear" if held and held.clear else "solid", colour.upper(), tint=_ASIDE)

    def _prints(self, entry: Entry, mesh: Mesh) -> list[Printed]:
        prints = []
        for _, one, faces, motion in prints_on(entry, self.coats):
            with suppress(SuppleError):  # a picture that is gone or damaged is told by its step
                held = pixels_of(one, self.asset)
                cut = printed(mesh.points, mesh.normals, _of(mesh, faces), one, motion)
                rows, corners = _cornered(mesh, faces, one, motion)
                lay = one.laying
                apart = (lay.across / lay.width, lay.along / lay.height)
                sheet = picture.tiled(held, lay.columns, lay.rows, *apart, mirrored=lay.mirrored)
                endless = isinstance(lay.sheet, Turned)
                prints.append(Printed(one.name, one.file, cut, held, sheet, rows, corners, endless))
        return prints


def coats_for(entry: Entry, coats: Mapping[str, Coat]) -> Mapping[str, Coat]:
    """What may be worn by a body: by steel only what was put on it here."""
    return coat.put_on_here(coats) if entry.role in STEEL else coats


def prints_on(entry: Entry, coats: Mapping[str, Coat]) -> list[tuple[str, Print, tuple[int, ...], Motion | None]]:
    """The prints on a body by their mark, with the faces they are on and how those have gone since, in order."""
    moved = dict(entry.moved)
    return [
        (mark, one, faces, moved.get(mark))
        for mark, one, faces in coat.worn(entry.body, coats_for(entry, coats))
        if isinstance(one, Print) and (mark in moved or coat.is_first(mark))
    ]


def pixels_of(one: Print, asset: Callable[[str, str], bytes]) -> picture.Pixels:
    """The pixels of a print's picture, in one colour where it is printed so. SuppleError where it is gone or damaged."""
    held = picture.pixels(asset(one.asset, one.file)) if one.asset else picture.check_card()
    return picture.in_one(held, one.colour) if one.colour else held


def printed(points: Floats, normals: Floats, triangles: Ints, one: Print, motion: Motion | None) -> Decal:
    """The part of a print that lies on a skin which has gone by a motion since it was laid."""
    turn, shift = _split(motion)
    cut = art.decal.decal((points - shift) @ turn, normals @ turn, triangles, one.laying)  # looked at where it was laid
    return dataclasses.replace(cut, points=cut.points @ turn.T + shift, normals=cut.normals @ turn.T)


def _cornered(mesh: Mesh, faces: Sequence[int], one: Print, motion: Motion | None) -> tuple[Rows, Floats]:
    turn, shift = _split(motion)
    mine = np.flatnonzero(np.isin(mesh.faces, np.array(faces)))
    rows, corners = art.decal.corners_of((mesh.points - shift) @ turn, mesh.normals @ turn, mesh.triangles[mine], one.laying)
    return mine[rows], corners


def _of(mesh: Mesh, faces: Sequence[int]) -> Ints:
    picked: Ints = mesh.triangles[np.isin(mesh.faces, np.array(faces))]
    return picked


def _split(motion: Motion | None) -> tuple[Floats, Floats]:
    if motion is None:
        return np.eye(3), np.zeros(3)
    matrix = np.array(motion).reshape(3, 4)
    return matrix[:, :3], matrix[:, 3]
