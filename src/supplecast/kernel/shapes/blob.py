"""Solids as bytes, and solids that are read from them only when they are looked into."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Sequence
from functools import cached_property
from itertools import accumulate, pairwise
from typing import Any, overload

from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape

from supplecast.errors import KernelError
from supplecast.kernel.shapes import mesh_body
from supplecast.kernel.shapes.faults import KERNEL_FAULTS
from supplecast.kernel.shapes.shape import Solid, Surface, solids_in

_UNREADABLE: tuple[type[Exception], ...] = (zlib.error, *KERNEL_FAULTS)


def packed(solid: Solid) -> bytes:
    """The solid without its triangles; the order of its faces and edges survives. Of a mesh body all there is."""
    if isinstance(solid, mesh_body.MeshBody):
        return solid.packed()
    stream = io.BytesIO()
    BinTools.Write_s(solid.shape, stream, False, False, BinTools_FormatVersion.BinTools_FormatVersion_CURRENT)
    return zlib.compress(stream.getvalue(), 1)


def unpacked(content: bytes) -> Any:
    """The kernel shape in bytes made by `packed`. KernelError for anything else."""
    shape = TopoDS_Shape()
    try:
        BinTools.Read_s(shape, io.BytesIO(zlib.decompress(content)))
        pieces = solids_in(shape) or [Surface(shape)]
    except _UNREADABLE as fault:
        raise KernelError("A stored shape cannot be read.") from fault
    if len(pieces) != 1:
        raise KernelError("A stored shape cannot be read.")
    return pieces[0].shape


class Bundle(Sequence[Solid]):
    """Several solids in one piece, unpacked when one of them is first needed."""

    def __init__(self, content: bytes, count: int) -> None:
        self._content = content
        self._count = count

    @cached_property
    def _solids(self) -> list[Solid]:
        return [stored(self._content[a:b]) for a, b in pairwise(self._ends)]

    @cached_property
    def _ends(self) -> list[int]:
        head = 4 * self._count
        sizes = struct.unpack(f"<{self._count}I", self._content[:head])
        return list(accumulate(sizes, initial=head))

    def __len__(self) -> int:
        return self._count

    @overload
    def __getitem__(self, index: int) -> Solid: ...

    @overload
    def __getitem__(self, index: slice) -> Sequence[Solid]: ...

    def __getitem__(self, index: int | slice) -> Solid | Sequence[Solid]:
        return self._solids[index]


def bundled(solids: Sequence[Solid]) -> bytes:
    """Several solids as one piece, for `Bundle` to read."""
    parts = [packed(solid) for solid in solids]
    return struct.pack(f"<{len(parts)}I", *(len(part) for part in parts)) + b"".join(parts)


class Shelved(Solid):
    """A solid whose shape is read when first needed; its measures may be known before."""

    def __init__(self, content: bytes) -> None:
        self._content = content

    @cached_property
    def shape(self) -> Any:
        return unpacked(self._content)

    @cached_property
    def closed(self) -> bool:  # type: ignore[override]
        return bool(self.shape.ShapeType() == TopAbs_SOLID)


def stored(content: bytes) -> Solid:
    """The body in bytes made by `packed`; shapes of the kernel are read when they are first needed."""
    return mesh_body.unpacked(content) if content.startswith(mesh_body.MARK) else Shelved(content)
