"""Measure: a size kept on the model as a note."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Things
from supplecast.document.step import Before, Step
from supplecast.expressions import LENGTH_UNITS
from supplecast.wording import show

if TYPE_CHECKING:
    from supplecast.kernel.measuring.gauge import Figure


class Measure(Step):
    """What one face, edge or point measures, or two of them between each other; told anew whenever the model changes.

    Example: {"id": "me1", "type": "measure", "of": [{"face": "p81.end"}, {"face": "p81.start"}]}
    """

    type: Literal["measure"] = "measure"
    word = "Measure"
    purpose = "keep a measured size as a note"
    search = "distance length angle dimension note gauge"
    follows = "import"
    picture = ("M4 4v16M28 4v16", "M4 12h24m-4-3l4 3-4 3M8 9l-4 3 4 3")
    suits = (
        "faces",
        "edges",
    )

    document_kinds = ("part", "tool", "assembly")

    of: Things = ()

    def sentence(self) -> str:
        return "Measure {of}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"of": list(picked[:2])}

    def build(self, at: Builder) -> None:
        things = at.things("of")
        if not 1 <= len(things) <= 2:
            at.fail("of", f"One or two things can be measured; {len(things)} are picked.", "Pick a face, an edge or a corner.")
        if len(things) == 1:
            figures = kernel.gauge.single(things[0])
        else:
            figures, line = at.kernel("of", kernel.gauge.between, *things)
            at.lines([line])
        for figure in figures:
            at.figure(figure.name, figure.value)
        at.note(figures_words(figures, at.scope.unit))


def figures_words(figures: Sequence[Figure], unit: str) -> str:
    """Figures as one line, in the document's unit; parts along axes that are nothing are left out."""
    shown = [f for f in figures if not (f.name.startswith("along") and f.value < 1e-9)]
    return ", ".join(f"{figure.name} {value_words(figure, unit)}" for figure in shown)


def value_words(figure: Figure, unit: str) -> str:
    if figure.unit == "rad":
        return f"{show(math.degrees(figure.value), 3)}°"
    scale = LENGTH_UNITS[unit]
    if figure.unit == "mm²":
        return f"{show(figure.value / scale**2, 3)} {unit}²"
    return f"{show(figure.value / scale, 4)} {unit}"
