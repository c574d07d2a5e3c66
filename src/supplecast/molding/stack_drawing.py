"""A drawn section through the stack of a tool, as plain outlines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.geometry import Point2


@dataclass(frozen=True)
class Cut:
    """The outlines in which a body is cut, mm, closed, holes among them; the item of the parts list that it is; its role."""

    body: str
    role: str
    item: int
    loops: Sequence[Sequence[Point2]]


@dataclass(frozen=True)
class Label:
    """An item's number, and a place inside of one of its bodies that the section shows."""

    item: int
    place: Point2


@dataclass(frozen=True)
class StackSection:
    """The section: width and height in mm, what is cut from the back to the front, and where each item is seen."""

    width: float
    height: float
    cuts: Sequence[Cut]
    labels: Sequence[Label]
