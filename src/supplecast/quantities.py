"""Sizes as people type them: expressions with the named values of a document, evaluated to mm, radians or plain numbers.

A bare number takes the unit of the field it stands in (the document's length unit, degrees, percent), also where it is added
to or compared with a sized value: `wall + 1` in a mm document is one mm more.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import combinations
from typing import Literal

from supplecast.errors import QuantityError
from supplecast.expressions import LENGTH_UNITS, LONGEST, RESERVED, Parser, Quantity, quoted, tokens, words

Kind = Literal["length", "angle", "factor", "count", "number"]

_NAME = re.compile(r"[A-Za-z_][A-Za-z_0-9]*\Z")
_EXAMPLES: Mapping[Kind, str] = {"length": "2.2 mm", "angle": "1.5 deg", "factor": "0.55 %", "count": "4", "number": "1.02"}


def check_name(name: str) -> str:
    """Return `name` if it may stand for a value in expressions, else raise QuantityError."""
    if not _NAME.match(name) or len(name) > 40:
        raise QuantityError(f"“{name[:60]}” cannot name a value.", "Use letters, digits and _, starting with a letter.")
    if name in RESERVED:
        raise QuantityError(f"“{name}” already means something in expressions.", "Choose another name.")
    return name


@dataclass(frozen=True)
class _Settled:
    """What a named value came to, or why it came to nothing, and every name that was read for it."""

    quantity: Quantity | None
    message: str
    hint: str
    reads: frozenset[str]


@dataclass
class Scope:
    """The named values of one document and its length unit; evaluates expressions against them.

    `read` collects the names used since it was last cleared, also by other named values, so that a rebuild can tell what a
    step depends on. Each named value is worked out once, however often it is mentioned.
    """

    values: Mapping[str, str] = field(default_factory=dict)
    unit: str = "mm"
    read: set[str] = field(default_factory=set)
    _settled: dict[str, _Settled] = field(default_factory=dict, init=False, repr=False, compare=False)

    def named(self, name: str) -> Quantity:
        """What a named value comes to."""
        if name not in self._settled:
            self._settle(name)
        known = self._settled[name]
        self.read |= known.reads
        if known.quantity is None:
            raise QuantityError(known.message, known.hint)
        return known.quantity

    def _settle(self, name: str) -> None:
        """Work out a named value after all that it mentions: step by step, so that a chain of any length can be read."""
        path = [name]
        while path:
            at = path[-1]
            ahead = self._unsettled_in(self.values.get(at, ""))
            if ahead in path:
                self.read.update(path)
                raise QuantityError("Named values go round in a circle: " + " → ".join((*path, ahead)) + ".")
            if ahead:
                path.append(ahead)
            else:
                self._settled[at] = self._worked_out(at)
                path.pop()

    def _unsettled_in(self, text: str) -> str:
        """The first name in an expression that is still to be worked out; blank if there is none, or one before has failed."""
        for kind, name in tokens(text) if len(text) <= LONGEST else ():
            if kind != "name" or name in RESERVED:
                continue
            if name not in self._settled:
                return name
            if self._settled[name].quantity is None:
                break
        return ""

    def _worked_out(self, name: str) -> _Settled:
        """The value of a name all of whose mentions are settled."""
        # Read also when it is missing: once it is there, what failed for want of it is built again.
        outer, self.read = self.read, {name}
        try:
            if name not in self.values:
                known = ", ".join(sorted(self.values)) or "none yet"
                raise QuantityError(f"There is no value named “{name}”.", f"Named values: {known}.")
            value = Parser(self.values[name], self).whole()
            return _Settled(value, "", "", frozenset(self.read))
        except QuantityError as fault:
            return _Settled(None, fault.message, fault.hint, frozenset(self.read))
        finally:
            self.read = outer

    def dress(self, quantity: Quantity, dimension: tuple[int, int]) -> Quantity:
        if dimension == (1, 0):
            return Quantity(quantity.value * LENGTH_UNITS[self.unit], length=1)
        if dimension == (0, 1):
            return Quantity(math.radians(quantity.value), angle=1)
        raise QuantityError(f"A plain number does not go with {words(dimension)}.")

    def evaluate(self, text: str, kind: Kind) -> float:
        """Value of `text` in mm, radians, as a ratio (a bare number is percent) or as a whole count."""
        quantity = Parser(text, self).whole()
        wanted = {"length": (1, 0), "angle": (0, 1), "factor": (0, 0), "count": (0, 0), "number": (0, 0)}[kind]
        if quantity.dimension == (0, 0) and quantity.bare:
            if kind == "factor":
                return quantity.value / 100.0
            if kind not in ("count", "number"):
                try:
                    quantity = self.dress(quantity, wanted)
                except OverflowError as fault:
                    raise QuantityError(f"{quoted(text)} comes to a number too large to work with.") from fault
        if quantity.dimension != wanted:
            raise QuantityError(
                f"{quoted(text)} is {words(quantity.dimension)}; this field takes {words(wanted)}.",
                f"Type {_EXAMPLES[kind]}.",
            )
        if kind == "count" and quantity.value != round(quantity.value):
            raise QuantityError(f"{quoted(text)} is not a whole number.")
        return quantity.value


def restated(text: str, scope: Scope, unit: str) -> str:
    """A length retyped so that it means the same in a document of another unit: bare numbers get the unit they had."""
    other = Scope(scope.values, unit)
    try:
        want = scope.evaluate(text, "length")
    except QuantityError:
        return text  # what cannot be read stays as it was typed

    def same(candidate: str) -> bool:
        try:
            return math.isclose(other.evaluate(candidate, "length"), want, rel_tol=1e-12, abs_tol=1e-12)
        except QuantityError:
            return False

    if same(text):
        return text
    places = [m.end() for m in re.finditer(r"(?<![A-Za-z_0-9.])(\d+\.?\d*|\.\d+)", text)][:10]
    subsets = (chosen for size in range(1, len(places) + 1) for chosen in combinations(places, size))
    tries = (_with_units(text, chosen, scope.unit) for chosen in subsets)
    return next((written for written in (f"{text} {scope.unit}", f"({text}) {scope.unit}", *tries) if same(written)), text)


def _with_units(text: str, places: tuple[int, ...], unit: str) -> str:
    for place in sorted(places, reverse=True):
        text = f"{text[:place]} {unit}{text[place:]}"
    return text


def in_unit(mm: float, unit: str) -> float:
    """Length in mm shown in `unit`."""
    return mm / LENGTH_UNITS[unit]
