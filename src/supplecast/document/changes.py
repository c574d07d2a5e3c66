"""How two shapes, or two sheets, differ: rows of a comparison."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class FaceChange:
    """A face that `moved` by so many mm out of its material, was `resized`, `added` or `lost`; `walls` there in mm before and
    after, where it has some.
    """

    kind: str
    words: str
    first: int | None
    second: int | None
    by: float | None = None
    walls: tuple[float, float] | None = None


@dataclass(frozen=True)
class StepChange:
    """A field of a step, a named value or a figure of the document that differs; `step` is blank for what is no step's."""

    step: str
    what: str
    first: str | None
    second: str | None
