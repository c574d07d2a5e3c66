"""Numbers, counts and directions in words, as every screen and note says them."""

from __future__ import annotations

import math
from collections.abc import Sequence


def brief(value: float, figures: int = 3) -> str:
    """A number to so many significant figures, whole ones kept whole, no trailing zeros."""
    if value == 0 or not math.isfinite(value):
        return show(value)
    return show(value, max(0, figures - 1 - math.floor(math.log10(abs(value)))))


def show(value: float, digits: int = 3) -> str:
    """A number as people write it: at most `digits` decimals, no trailing zeros, no negative zero."""
    text = f"{value:.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def plural(count: int, one: str, many: str = "") -> str:
    """A count with its word."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def listed(names: Sequence[str], most: int = 2) -> str:
    """Names in a row, those over `most` only counted."""
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    return " and ".join(names)


def direction_words(direction: tuple[float, float, float]) -> str:
    """A direction in words: an axis of the document where it is one."""
    for axis, name in enumerate("xyz"):
        if abs(direction[axis]) > 1 - 1e-6:
            return f"{'+' if direction[axis] > 0 else '−'}{name}"
    return f"({', '.join(brief(c, 2) for c in direction)})"


def place_words(place: tuple[float, float, float]) -> str:
    """A place in mm, as texts have it that are turned into the reader's unit later."""
    return f"at ({', '.join(show(c, 2) for c in place)})"


def with_points(text: str) -> str:
    """A text with its decimal commas as points: `2,5 mm` is `2.5 mm`. Within parentheses they part what a function is given."""
    return _decimals(text, ",", ".")


def with_commas(text: str) -> str:
    """A text with its decimal points as commas, but within parentheses: what `with_points` turns back."""
    return _decimals(text, ".", ",")


def _decimals(text: str, old: str, new: str) -> str:
    depth, written = 0, []
    for place, sign in enumerate(text):
        depth += (sign == "(") - (sign == ")")
        between = 0 < place < len(text) - 1 and text[place - 1].isdigit() and text[place + 1].isdigit()
        written.append(new if sign == old and depth == 0 and between else sign)
    return "".join(written)
