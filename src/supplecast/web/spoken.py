"""Words for the one who works in another unit than mm: every length, area and volume that the core says is said in theirs.

The core works in mm and says so. What it says is put into the document's unit here, on its way out, in one place; what people
have typed themselves, between quotation marks, stays as they typed it.
"""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Mapping, Sequence
from typing import Any, TypeVar

from supplecast.quantities import LENGTH_UNITS
from supplecast.wording import show

T = TypeVar("T")
_NUMBER = r"[-−]?\d+(?:\.\d+)?(?:e[-+]?\d+)?"
# “2 mm”, “20 × 30 mm”, “1 to 3 mm”, “12 mm³”: a row of numbers before the one unit.
_SIZES = re.compile(rf"(?<![\w.])({_NUMBER}(?:(?: × | to | by | or |–){_NUMBER})*) (mm|cm(?=[²³]))([²³]?)(?![\w/²³])")
_MASS = re.compile(rf"(?<![\w.])({_NUMBER}) (k?g)(?![\w/²³])")
_OUNCE, _POUND = 28.349523125, 453.59237  # g, exactly
_PLACE = re.compile(rf"\bat \(({_NUMBER}(?:, {_NUMBER}){{1,2}})\)")
_TYPED = re.compile(r"(“[^”]*”)")
_SAID = frozenset(("message", "hint", "words", "notes", "verdict", "fix", "why", "formula", "failed"))
"""Fields that hold words of ours for people; labels and names are theirs."""


def said(text: str, unit: str) -> str:
    """A text with its lengths, areas and volumes in a unit, to as many figures as they had, and places too; in inches also
    masses, in ounces or pounds.
    """
    if unit == "mm" or not text:
        return text
    pieces = _TYPED.split(text)
    return "".join(piece if piece.startswith("“") else _turned(piece, unit) for piece in pieces)


def _turned(text: str, unit: str) -> str:
    def sizes(match: re.Match[str]) -> str:
        power = {"": 1, "²": 2, "³": 3}[match[3]]
        return f"{_numbers(match[1], (LENGTH_UNITS[unit] / LENGTH_UNITS[match[2]]) ** power)} {unit}{match[3]}"

    def mass(match: re.Match[str]) -> str:
        grams = float(match[1].replace("−", "-")) * (1000 if match[2] == "kg" else 1)
        scale, name = (_POUND, "lb") if abs(grams) >= _POUND else (_OUNCE, "oz")
        return f"{_figure(match[1], scale / (1000 if match[2] == 'kg' else 1))} {name}"

    text = _SIZES.sub(sizes, text)
    if unit == "in":
        text = _MASS.sub(mass, text)
    return _PLACE.sub(lambda match: f"at ({_numbers(match[1], LENGTH_UNITS[unit])})", text)


def _numbers(row: str, scale: float) -> str:
    return re.sub(_NUMBER, lambda match: _figure(match[0], scale), row)


def _figure(text: str, scale: float) -> str:
    """A number over a scale, to as many figures as it is written with, three at least."""
    value = float(text.replace("−", "-")) / scale
    figures = max(3, len(re.sub(r"e.*|\D", "", text).lstrip("0")))
    if value == 0:
        return "0"
    short = float(f"{value:.{figures}g}")
    plain = f"{short:.3g}" if abs(short) < 1e-6 else show(short, 9)
    return plain.replace("-", "−") if text.startswith("−") else plain


def spoken(value: T, unit: str) -> T:
    """A result with everything that it says to people in a unit."""
    if unit == "mm":
        return value
    turned: T = _spoken(value, unit)
    return turned


def _spoken(value: Any, unit: str) -> Any:
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        changed = {}
        for field in dataclasses.fields(value):
            held = getattr(value, field.name)
            new = _texts(held, unit) if field.name in _SAID else _spoken(held, unit)
            if new is not held:
                changed[field.name] = new
        changed |= _figure_fields(value, unit)
        return dataclasses.replace(value, **changed) if changed else value
    if isinstance(value, (list, tuple)) and value and not isinstance(value[0], (int, float, str)):
        inner = [_spoken(one, unit) for one in value]
        if all(a is b for a, b in zip(inner, value, strict=True)):
            return value
        return tuple(inner) if isinstance(value, tuple) else inner
    if isinstance(value, Mapping) and value.get("op") == "set" and isinstance(value.get("value"), str):
        return {**value, "value": said(value["value"], unit)}  # what a hint would set is what it says
    if isinstance(value, Mapping) and isinstance(value.get("values"), Mapping):
        values = {name: said(one, unit) if isinstance(one, str) else one for name, one in value["values"].items()}
        return {**value, "values": values}
    return value


def _texts(held: Any, unit: str) -> Any:
    if isinstance(held, str):
        return said(held, unit)
    if isinstance(held, Sequence) and held and isinstance(held[0], str):
        return [said(one, unit) for one in held]
    return _spoken(held, unit)


def _figure_fields(value: Any, unit: str) -> dict[str, str]:
    """Figures whose unit stands beside them in a field of its own."""
    own = getattr(value, "unit", "")
    if own not in ("mm", "mm²", "mm³", "cm²", "cm³", "g", "kg"):
        return {}
    names = [name for name in ("value", "first", "second", "change") if isinstance(getattr(value, name, None), str)]
    turned = {name: said(f"{getattr(value, name)} {own}", unit) for name in names}
    units = {text.rpartition(" ")[2] for text in turned.values()}
    if len(units) != 1:  # one in pounds, the other in ounces: they stay comparable as they are
        return {}
    (new,) = units
    return {"unit": new} | {name: text.removesuffix(f" {new}") for name, text in turned.items()}
