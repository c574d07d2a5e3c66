"""Words as the one who reads them writes them: in the document's unit, with their masses, their currency and decimal sign.

The core works in mm, g and points, and says so; money it marks with “¤”. What it says is put into the reader's way here, on
its way out, in one place; what people have typed themselves, between quotation marks, stays as they typed it.
"""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from supplecast.expressions import LENGTH_UNITS
from supplecast.wording import show, with_commas

T = TypeVar("T")
_NUMBER = r"[-−]?\d+(?:\.\d+)?(?:e[-+]?\d+)?"
# “2 mm”, “20 × 30 mm”, “1 to 3 mm”, “12 mm³”: a row of numbers before the one unit.
_SIZES = re.compile(rf"(?<![\w.])({_NUMBER}(?:(?: × | to | by | or |–){_NUMBER})*) (mm|cm(?=[²³]))([²³]?)(?![\w/²³])")
_MASS = re.compile(rf"(?<![\w.])({_NUMBER}) (k?g)(?![\w/²³])")
MASS_UNITS = {"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237}
"""Grams of each, exactly (the international avoirdupois pound of 1959, from memory)."""
_POINT = re.compile(r"(?<=\d)\.(?=\d)")
_PLACE = re.compile(rf"\bat \(({_NUMBER}(?:, {_NUMBER}){{1,2}})\)")
_TYPED = re.compile(r"(“[^”]*”)")
_TURNED = ("mm", "mm²", "mm³", "cm²", "cm³", "g", "kg")
_SAID = frozenset(("message", "hint", "words", "notes", "verdict", "fix", "why", "formula", "failed"))
"""Fields that hold words of ours for people; labels and names are theirs."""


@dataclass(frozen=True)
class Voice:
    """How one reads: the unit of the document; the decimal sign, `.` or `,`; the unit of masses, empty for the one that goes
    with the document's; the sign of the currency, empty for none.
    """

    unit: str = "mm"
    decimal: str = "."
    mass: str = ""
    currency: str = ""

    @property
    def plain(self) -> bool:
        """Whether all is said as the core says it, but for money."""
        return self.unit == "mm" and self.decimal == "." and not self.mass

    def typed(self, text: str) -> str:
        """An expression as the reader would type it."""
        return with_commas(text) if self.decimal == "," else text


def said(text: str, voice: Voice) -> str:
    """A text with its lengths, areas and volumes in the reader's unit, to as many figures as they had, and places too; with
    masses, money and decimal signs of theirs.
    """
    if (voice.plain and "¤" not in text) or not text:
        return text
    pieces = _TYPED.split(text)
    return "".join(piece if piece.startswith("“") else _turned(piece, voice) for piece in pieces)


def _turned(text: str, voice: Voice) -> str:
    unit = voice.unit

    def sizes(match: re.Match[str]) -> str:
        power = {"": 1, "²": 2, "³": 3}[match[3]]
        return f"{_numbers(match[1], (LENGTH_UNITS[unit] / LENGTH_UNITS[match[2]]) ** power)} {unit}{match[3]}"

    def mass(match: re.Match[str]) -> str:
        said_in = MASS_UNITS[match[2]]
        grams = float(match[1].replace("−", "-")) * said_in
        name = voice.mass or ("lb" if abs(grams) >= MASS_UNITS["lb"] else "oz")
        return f"{_figure(match[1], MASS_UNITS[name] / said_in)} {name}"

    def place(match: re.Match[str]) -> str:
        between = "; " if voice.decimal == "," else ", "
        return f"at ({_numbers(match[1], LENGTH_UNITS[unit]).replace(', ', between)})"

    if unit != "mm":
        text = _SIZES.sub(sizes, text)
    if voice.mass or unit == "in":
        text = _MASS.sub(mass, text)
    if unit != "mm" or voice.decimal == ",":
        text = _PLACE.sub(place, text)
    text = text.replace("¤", f"{voice.currency} " if voice.currency else "")
    return _POINT.sub(",", text) if voice.decimal == "," else text


def _numbers(row: str, scale: float) -> str:
    return re.sub(_NUMBER, lambda match: _figure(match[0], scale), row)


def _figure(text: str, scale: float) -> str:
    """A number over a scale, to as many figures as it is written with, three at least."""
    if scale == 1:
        return text
    value = float(text.replace("−", "-")) / scale
    figures = max(3, len(re.sub(r"e.*|\D", "", text).lstrip("0")))
    if value == 0:
        return "0"
    short = float(f"{value:.{figures}g}")
    plain = f"{short:.3g}" if abs(short) < 1e-6 else show(short, 9)
    return plain.replace("-", "−") if text.startswith("−") else plain


def spoken(value: T, voice: Voice) -> T:
    """A result with everything that it says to people said their way."""
    turned: T = _spoken(value, voice)
    return turned


def _spoken(value: Any, voice: Voice) -> Any:
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        changed = {}
        for field in dataclasses.fields(value):
            held = getattr(value, field.name)
            new = _texts(held, voice) if field.name in _SAID else _spoken(held, voice)
            if new is not held:
                changed[field.name] = new
        changed |= _figure_fields(value, voice)
        return dataclasses.replace(value, **changed) if changed else value
    if isinstance(value, (list, tuple)) and value and not isinstance(value[0], (int, float, str)):
        inner = [_spoken(one, voice) for one in value]
        if all(a is b for a, b in zip(inner, value, strict=True)):
            return value
        return tuple(inner) if isinstance(value, tuple) else inner
    if isinstance(value, Mapping) and value.get("op") == "set" and isinstance(value.get("value"), str):
        return {**value, "value": said(value["value"], voice)}  # what a hint would set is what it says
    if isinstance(value, Mapping) and isinstance(value.get("values"), Mapping):
        values = {name: said(one, voice) if isinstance(one, str) else one for name, one in value["values"].items()}
        return {**value, "values": values}
    return value


def _texts(held: Any, voice: Voice) -> Any:
    if isinstance(held, str):
        return said(held, voice)
    if isinstance(held, Sequence) and held and isinstance(held[0], str):
        return [said(one, voice) for one in held]
    return _spoken(held, voice)


def _figure_fields(value: Any, voice: Voice) -> dict[str, str]:
    """Figures whose unit stands beside them in a field of its own, or that need none."""
    own = getattr(value, "unit", None)
    if own is None:
        return {}
    held = {name: getattr(value, name, None) for name in ("value", "first", "second", "change")}
    figures = {name: figure for name, figure in held.items() if isinstance(figure, str)}
    turned = {name: said(f"{figure} {own}".rstrip(), voice) for name, figure in figures.items()}
    units = {text.rpartition(" ")[2] for text in turned.values()} if own in _TURNED else {own}
    if len(units) != 1:  # one in pounds, the other in ounces: they stay comparable as they are
        return {}
    (new,) = units
    return {"unit": new} | {name: text.removesuffix(f" {new}") if new else text for name, text in turned.items()}
