"""Expressions: numbers with units, names and arithmetic, read by a small recursive-descent parser over a fixed list of
operators and functions. Nothing is ever handed to Python's `eval`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Protocol

from supplecast import budget
from supplecast.errors import QuantityError
from supplecast.wording import with_points

# Exact by definition: the inch is 25.4 mm (international yard and pound agreement, 1959).
LENGTH_UNITS: Mapping[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
ANGLE_UNITS: Mapping[str, float] = {"deg": math.pi / 180.0, "°": math.pi / 180.0, "rad": 1.0}

_TOKEN = re.compile(r"\s*(?:(\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|\.\d+(?:[eE][+-]?\d+)?)|([A-Za-z_][A-Za-z_0-9]*)|(.))")
LONGEST = 400
_DEEPEST = 40
_SHOWN = 60  # characters of a text that a message repeats
_PARSING = 4  # work units a token costs


@dataclass(frozen=True)
class Quantity:
    """A value in mm^length · rad^angle. `bare` marks numbers typed without a unit, which still take the field's. OverflowError
    for what is no finite number.
    """

    value: float
    length: int = 0
    angle: int = 0
    bare: bool = False

    def __post_init__(self) -> None:
        if not math.isfinite(self.value):
            raise OverflowError

    @property
    def dimension(self) -> tuple[int, int]:
        return (self.length, self.angle)


def words(dimension: tuple[int, int]) -> str:
    """What kind of value this is."""
    names = {(0, 0): "a plain number", (1, 0): "a length", (0, 1): "an angle", (2, 0): "an area", (3, 0): "a volume"}
    return names.get(dimension, "a mixed unit")


def is_nothing(text: str) -> bool:
    """Whether a typed length is blank or plainly zero, such as `0 mm`: a named value or a formula may be anything."""
    return re.fullmatch(rf"(0+\.?0*|\.0+)?\s*({'|'.join(LENGTH_UNITS)})?", text.strip()) is not None


def quoted(text: str) -> str:
    """What was typed, between quotes; of what is very long only its beginning, and how long it is."""
    return f"“{text}”" if len(text) <= _SHOWN else f"“{text[: _SHOWN // 2]}…” ({len(text)} characters)"


def tokens(text: str) -> list[tuple[str, str]]:
    """What an expression is made of: numbers, names and operators, each with its text."""
    if len(text) > LONGEST:
        raise QuantityError(f"An expression may have {LONGEST} characters at most.")
    rows: list[tuple[str, str]] = []
    for number, name, other in _TOKEN.findall(with_points(text).replace(",", ", ").replace("−", "-").replace("×", "*")):
        if number:
            rows.append(("number", number))
        elif name:
            rows.append(("name", name))
        elif other.strip():
            rows.append(("op", other))
    return rows


class Names(Protocol):
    """What an expression asks of where it stands: its named values, and what a bare number means beside a sized one."""

    def named(self, name: str) -> Quantity: ...

    def dress(self, quantity: Quantity, dimension: tuple[int, int]) -> Quantity: ...


class Parser:
    """Reads one expression; `whole` gives what it comes to."""

    def __init__(self, text: str, scope: Names) -> None:
        self.text = text
        self.scope = scope
        self.tokens = tokens(text)
        self.at = 0
        self.depth = 0
        budget.spend(_PARSING * len(self.tokens))

    def peek(self) -> tuple[str, str]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("end", "")

    def take(self) -> tuple[str, str]:
        token = self.peek()
        self.at += 1
        return token

    def whole(self) -> Quantity:
        if not self.tokens:
            raise QuantityError("Nothing is typed here.", "Type a number, such as 2.2 or 2.2 mm.")
        try:
            value = self.sum()
        except OverflowError as fault:
            raise QuantityError(f"{quoted(self.text)} comes to a number too large to work with.") from fault
        kind, text = self.peek()
        if kind != "end":
            raise QuantityError(
                f"{quoted(self.text)} cannot be read from {quoted(text)} on.", "Type a number, such as 2.2 or 2.2 mm."
            )
        return value

    def sum(self) -> Quantity:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise QuantityError("Too many brackets inside each other.")
        value = self.product()
        while self.peek() in (("op", "+"), ("op", "-")):
            sign = 1.0 if self.take()[1] == "+" else -1.0
            left, right = self.alike(value, self.product())
            value = Quantity(left.value + sign * right.value, left.length, left.angle, left.bare and right.bare)
        self.depth -= 1
        return value

    def product(self) -> Quantity:
        value = self.signed()
        while self.peek() in (("op", "*"), ("op", "/")):
            if self.take()[1] == "*":
                right = self.signed()
                value = Quantity(
                    value.value * right.value,
                    value.length + right.length,
                    value.angle + right.angle,
                    value.bare and right.bare,
                )
            else:
                right = self.signed()
                if right.value == 0.0:
                    raise QuantityError(f"“{self.text}” divides by zero.")
                value = Quantity(
                    value.value / right.value,
                    value.length - right.length,
                    value.angle - right.angle,
                    value.bare and right.bare,
                )
        return value

    def signed(self) -> Quantity:
        negative = False
        while self.peek() in (("op", "+"), ("op", "-")):
            negative ^= self.take()[1] == "-"
        value = self.atom()
        return Quantity(-value.value, value.length, value.angle, value.bare) if negative else value

    def atom(self) -> Quantity:
        kind, text = self.take()
        if kind == "number":
            return self.with_unit(float(text))
        if kind == "name":
            if self.peek() == ("op", "("):
                return self.call(text)
            if text == "pi":
                return Quantity(math.pi, bare=True)
            return self.scope.named(text)
        if (kind, text) == ("op", "("):
            value = self.sum()
            self.close()
            kind, text = self.peek()
            if kind == "name" and text in LENGTH_UNITS and value.bare and value.dimension == (0, 0):
                self.take()  # a unit after brackets gives it to what is in them
                return Quantity(value.value * LENGTH_UNITS[text], length=1)
            return value
        shown = quoted(text) if text else "the end"
        raise QuantityError(f"{quoted(self.text)} cannot be read at {shown}.", "Type a number, such as 2.2 or 2.2 mm.")

    def with_unit(self, number: float) -> Quantity:
        number = self.with_fraction(number)
        kind, text = self.peek()
        if kind == "name" and text in LENGTH_UNITS:
            self.take()
            return Quantity(number * LENGTH_UNITS[text], length=1)
        if text in ANGLE_UNITS:
            self.take()
            return Quantity(number * ANGLE_UNITS[text], angle=1)
        if (kind, text) == ("op", "%"):
            self.take()
            return Quantity(number / 100.0)
        return Quantity(number, bare=True)

    def with_fraction(self, number: float) -> float:
        """A number that goes on as `1/2 in` or `1 1/2 in`: there the unit belongs to the whole fraction."""
        ahead = self.tokens[self.at : self.at + 4]
        if len(ahead) >= 3 and ahead[0] == ("op", "/") and self._unit_after(ahead[1:]):
            self.at += 2
            return self._over(number, ahead[1][1])
        if len(ahead) == 4 and ahead[0][0] == "number" and ahead[1] == ("op", "/") and self._unit_after(ahead[2:]):
            self.at += 3
            return number + self._over(float(ahead[0][1]), ahead[2][1])
        return number

    @staticmethod
    def _unit_after(tokens: list[tuple[str, str]]) -> bool:
        return tokens[0][0] == "number" and tokens[1][0] == "name" and tokens[1][1] in LENGTH_UNITS

    def _over(self, number: float, below: str) -> float:
        if float(below) == 0:
            raise QuantityError(f"“{self.text}” divides by zero.")
        return number / float(below)

    def close(self) -> None:
        if self.take() != ("op", ")"):
            raise QuantityError(f"“{self.text}” lacks a closing bracket.")

    def call(self, name: str) -> Quantity:
        function = _FUNCTIONS.get(name)
        if function is None:
            raise QuantityError(f"There is no function “{name}”.", "Known: " + ", ".join(sorted(_FUNCTIONS)) + ".")
        self.take()
        arguments = [self.sum()]
        while self.peek() == ("op", ","):
            self.take()
            arguments.append(self.sum())
        self.close()
        return function(self, name, arguments)

    def alike(self, a: Quantity, b: Quantity) -> tuple[Quantity, Quantity]:
        """Give a bare number beside a sized one the sized one's unit; refuse unlike units."""
        if a.dimension == b.dimension:
            return a, b
        if a.bare and a.dimension == (0, 0):
            return self.scope.dress(a, b.dimension), b
        if b.bare and b.dimension == (0, 0):
            return a, self.scope.dress(b, a.dimension)
        raise QuantityError(f"“{self.text}” mixes {words(a.dimension)} with {words(b.dimension)}.")


def _extreme(pick: Callable[[list[float]], float]) -> Callable[[Parser, str, list[Quantity]], Quantity]:
    def call(parser: Parser, name: str, arguments: list[Quantity]) -> Quantity:
        sized = next((q for q in arguments if q.dimension != (0, 0)), arguments[0])
        alike = [parser.alike(q, sized)[0] for q in arguments]
        return Quantity(pick([q.value for q in alike]), sized.length, sized.angle, all(q.bare for q in arguments))

    return call


def _single(name: str, arguments: list[Quantity]) -> Quantity:
    if len(arguments) != 1:
        raise QuantityError(f"“{name}” takes one value.")
    return arguments[0]


def _trigonometric(function: Callable[[float], float]) -> Callable[[Parser, str, list[Quantity]], Quantity]:
    def call(parser: Parser, name: str, arguments: list[Quantity]) -> Quantity:
        angle = _single(name, arguments)
        if angle.bare and angle.dimension == (0, 0):
            angle = Quantity(math.radians(angle.value), angle=1)
        if angle.dimension != (0, 1):
            raise QuantityError(f"“{name}” takes an angle, not {words(angle.dimension)}.")
        return Quantity(function(angle.value), bare=True)

    return call


def _inverse(function: Callable[[float], float]) -> Callable[[Parser, str, list[Quantity]], Quantity]:
    def call(parser: Parser, name: str, arguments: list[Quantity]) -> Quantity:
        ratio = _single(name, arguments)
        if ratio.dimension != (0, 0):
            raise QuantityError(f"“{name}” takes a plain number, not {words(ratio.dimension)}.")
        try:
            return Quantity(function(ratio.value), angle=1)
        except ValueError as fault:
            raise QuantityError(f"“{name}” has no value for {ratio.value:g}.") from fault

    return call


def _root(parser: Parser, name: str, arguments: list[Quantity]) -> Quantity:
    inner = _single(name, arguments)
    if inner.value < 0 or inner.length % 2 or inner.angle % 2:
        raise QuantityError(f"“{name}” has no value for {words(inner.dimension)} of {inner.value:g}.")
    return Quantity(math.sqrt(inner.value), inner.length // 2, inner.angle // 2, inner.bare)


def _absolute(parser: Parser, name: str, arguments: list[Quantity]) -> Quantity:
    inner = _single(name, arguments)
    return Quantity(abs(inner.value), inner.length, inner.angle, inner.bare)


def _rounded(function: Callable[[float], float]) -> Callable[[Parser, str, list[Quantity]], Quantity]:
    def call(parser: Parser, name: str, arguments: list[Quantity]) -> Quantity:
        inner = _single(name, arguments)
        return Quantity(float(function(inner.value)), inner.length, inner.angle, inner.bare)

    return call


_FUNCTIONS: Mapping[str, Callable[[Parser, str, list[Quantity]], Quantity]] = {
    "min": _extreme(min),
    "max": _extreme(max),
    "sqrt": _root,
    "abs": _absolute,
    "round": _rounded(round),
    "floor": _rounded(math.floor),
    "ceil": _rounded(math.ceil),
    "sin": _trigonometric(math.sin),
    "cos": _trigonometric(math.cos),
    "tan": _trigonometric(math.tan),
    "asin": _inverse(math.asin),
    "acos": _inverse(math.acos),
    "atan": _inverse(math.atan),
}

RESERVED = frozenset(_FUNCTIONS) | frozenset(LENGTH_UNITS) | {"deg", "rad", "pi"}
