"""Whether a solid is sound: each face by itself, looked at once whatever solids it is part of, and that together they close.

The kernel's own check looks at all of a solid each time; after a cut nearly all faces are the ones they were. What it says of
solids as wholes beyond closing (shells inside of each other) is left to it where files are written and read.
"""

from __future__ import annotations

from collections import OrderedDict
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.TopAbs import TopAbs_EDGE, TopAbs_Orientation
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from supplecast.errors import KernelError, TouchingError
from supplecast.geometry import Rows
from supplecast.kernel.shapes.face_key import FaceKey
from supplecast.kernel.shapes.shape import Solid, faces_of, mapped, solids_in

_REMEMBERED = 20_000
_sound: OrderedDict[FaceKey, None] = OrderedDict()


def checked(shape: Any, doing: str, *, expect: int | None = 1) -> list[Solid]:
    """The one check every verb's result passes: sound solids, as many as expected, no walls without thickness.

    Raises KernelError saying what `doing` (for instance "the cut") left behind.
    """
    solids = solids_in(shape)
    if not solids:
        raise KernelError(f"{doing.capitalize()} leaves nothing.")
    if expect is not None and len(solids) != expect:
        raise KernelError(f"{doing.capitalize()} leaves {len(solids)} separate pieces instead of {expect}.")
    for solid in solids:
        if not _faces_are_sound(solid):
            raise KernelError(f"{doing.capitalize()} makes an unsound solid.")
        passed, back = _passes(solid)
        if (passed + back > 2).any():
            raise TouchingError(f"{doing.capitalize()} leaves walls that meet along a line without thickness.")
        if (passed != back).any():
            raise KernelError(f"{doing.capitalize()} makes an unsound solid.")
    return solids


def one(shape: Any, doing: str) -> Solid:
    return checked(shape, doing)[0]


def forget() -> None:
    """Drop every face that was found sound, with the shapes they hold on to."""
    _sound.clear()


def _faces_are_sound(solid: Solid) -> bool:
    keys = [FaceKey(solid.face(index)) for index in range(solid.face_count)]
    fresh = [index for index, key in enumerate(keys) if key not in _sound]
    if fresh and not BRepCheck_Analyzer(faces_of(solid, fresh)).IsValid():
        return False
    for key in keys:
        _sound[key] = None
        _sound.move_to_end(key)
    while len(_sound) > _REMEMBERED:
        _sound.popitem(last=False)
    return True


def _passes(solid: Solid) -> tuple[Rows, Rows]:
    """How often faces run along each edge one way and the other, (edges,) each: once both ways on a skin that closes."""
    edges = mapped(solid.shape, TopAbs_EDGE)
    count = int(edges.Extent())
    passes = {TopAbs_Orientation.TopAbs_FORWARD: np.zeros(count, int), TopAbs_Orientation.TopAbs_REVERSED: np.zeros(count, int)}
    explorer = TopExp_Explorer(solid.shape, TopAbs_EDGE)
    while explorer.More():
        edge = explorer.Current()
        row = passes.get(edge.Orientation())
        if row is not None:
            row[int(edges.FindIndex(edge)) - 1] += 1
        explorer.Next()
    forward, back = passes.values()
    for index in np.flatnonzero(forward != back):
        if BRep_Tool.Degenerated_s(TopoDS.Edge(edges.FindKey(int(index) + 1))):
            forward[index] = back[index] = 1
    return forward, back
