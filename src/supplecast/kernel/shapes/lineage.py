"""Where a solid came from, as far as later questions may rely on it: carried elsewhere whole, or with something taken off it.

What is known of the source then holds of the solid too: its triangles lie where the motion carries them, and two bodies that
came by the same motion and by cuts alone have no more in common than their sources had.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING
from weakref import ReferenceType, ref

from supplecast.geometry import Floats
from supplecast.kernel.shapes.memo import Memo

if TYPE_CHECKING:
    from supplecast.kernel.shapes.shape import Solid


@dataclass(frozen=True, eq=False)
class _Came:
    """The solid before, as long as somebody holds it, and the turn and shift (3, 4) since; None where it was cut."""

    source: ReferenceType[Solid]
    motion: Floats | None


_CAME: Memo[_Came] = Memo("where it came from")


def note_carried(solid: Solid, source: Solid, motion: Floats) -> None:
    """The solid is another one, carried by a turn and a shift in mm (3, 4)."""
    _CAME.keep(solid, _Came(ref(source), motion))


def note_cut(solid: Solid, source: Solid) -> None:
    """The solid is another one, less something."""
    _CAME.keep(solid, _Came(ref(source), None))


def carried(solid: Solid) -> tuple[Solid, Floats] | None:
    """The solid that this one is, carried by the motion given; None if it is not known to be any."""
    came = _CAME.known(solid)
    source = came.source() if came else None
    return (source, came.motion) if came and source is not None and came.motion is not None else None


def carried_and_cut(solid: Solid) -> tuple[Solid, Floats] | None:
    """The solid that this one is, carried by the motion given and then with things taken off; None if there is no such one."""
    came = _CAME.known(solid)
    while came is not None and came.motion is None:
        before = came.source()
        came = _CAME.known(before) if before is not None else None
    source = came.source() if came else None
    return (source, came.motion) if came and source is not None and came.motion is not None else None
