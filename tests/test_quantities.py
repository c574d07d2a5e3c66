"""Expressions: units, named values, arithmetic, and what they refuse."""

from __future__ import annotations

import math

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from supplecast import budget, expressions
from supplecast.errors import QuantityError, SuppleError
from supplecast.quantities import Scope, check_name
from supplecast.wording import show

units = pint.UnitRegistry()


@given(st.floats(-1e5, 1e5, allow_nan=False), st.sampled_from(["mm", "cm", "m", "in"]))
def test_lengths_agree_with_an_independent_unit_library(number: float, unit: str) -> None:
    text = f"{number!r} {unit}"
    assert Scope().evaluate(text, "length") == pytest.approx(
        units.Quantity(number, unit).to("mm").magnitude, rel=1e-12, abs=1e-12
    )


@pytest.mark.parametrize(
    ("text", "value"),
    [("2,5", 2.5), ("2,5 mm + 0,5", 3.0), ("max(2,5)", 5.0), ("max(2, 5) + 1,5", 6.5), ("1,5 * (2 + 1)", 4.5)],
)
def test_a_comma_is_a_decimal_sign_where_it_parts_nothing(text: str, value: float) -> None:
    assert Scope().evaluate(text, "length") == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("wall * 0.55", "length", 1.21),
        ("wall + 1", "length", 3.2),
        ("2 * (1 + 2) / 4", "length", 1.5),
        ("-min(wall, 1)", "length", -1.0),
        ("max(1 in, 3)", "length", 25.4),
        ("sqrt(wall * wall)", "length", 2.2),
        ("10 * sin(30)", "length", 5.0),
        ("1.5°", "angle", math.radians(1.5)),
        ("1.5", "angle", math.radians(1.5)),
        ("atan(1)", "angle", math.pi / 4),
        ("0.55 %", "factor", 0.0055),
        ("0.55", "factor", 0.0055),
        ("rib * 2", "length", 2.42),
    ],
)
def test_expressions_come_to(text: str, kind: str, value: float) -> None:
    scope = Scope({"wall": "2.2 mm", "rib": "wall * 0.55"})
    assert scope.evaluate(text, kind) == pytest.approx(value, rel=1e-12)  # type: ignore[arg-type]


def test_a_bare_number_takes_the_document_unit() -> None:
    assert Scope(unit="in").evaluate("2", "length") == pytest.approx(50.8)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "Nothing is typed"),
        ("abc", "no value named “abc”"),
        ("3 deg", "an angle"),
        ("2 mm + 3 deg", "mixes"),
        ("1/0", "divides by zero"),
        ("(1", "closing bracket"),
        ("2 2", "cannot be read"),
        ("1e999", "too large"),
        ("floor(1e308*10)", "too large"),
        ("ceil(1e999)", "too large"),
        ("round(1e999-1e999)", "too large"),
        ("sin(1e999)", "too large"),
        ("a", "circle"),
        ("__import__('os')", "no function"),
        ("(" * 100 + "1" + ")" * 100, "brackets"),
        ("9" * 1000, "characters"),
        ("sqrt(-1)", "no value"),
    ],
)
def test_bad_expressions_say_why(text: str, words: str) -> None:
    scope = Scope({"a": "b", "b": "a + 1"})
    with pytest.raises(QuantityError) as fault:
        scope.evaluate(text, "length")
    assert words in str(fault.value)


@given(st.text(max_size=60))
def test_any_text_gives_a_number_or_a_message(text: str) -> None:
    try:
        assert math.isfinite(Scope().evaluate(text, "length"))
    except SuppleError as fault:
        assert fault.message


def test_named_values_are_worked_out_once_and_a_chain_may_be_as_long_as_the_list(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    whole = expressions.Parser.whole
    monkeypatch.setattr(expressions.Parser, "whole", lambda parser: asked.append(parser.text) or whole(parser))
    wide = {"a0": "1"} | {f"a{k}": "+".join([f"a{k - 1}"] * 100) for k in range(1, 10)}
    assert Scope(wide).evaluate("9 + a9", "length") == 9 + 100.0**9
    assert len(asked) == len(wide) + 1
    chain = Scope({"v0": "2"} | {f"v{k}": f"v{k - 1} + 1" for k in range(1, 500)})
    assert chain.evaluate("v499", "length") == 501
    assert chain.read == set(chain.values)  # what a step depends on, through the whole chain
    chain.read.clear()
    assert chain.evaluate("v2", "length") == 4 and chain.read == {"v0", "v1", "v2"}


def test_what_is_wrong_with_named_values_does_not_hang_on_what_was_asked_before() -> None:
    values = {"a": "b + 1", "b": "c", "c": "a", "d": "1 + gone", "e": "d * 2"}
    fresh = {name: str(_fault(Scope(values), name)) for name in values}
    for order in (sorted(values), sorted(values, reverse=True)):
        scope = Scope(values)
        assert {name: str(_fault(scope, name)) for name in order} == fresh
    assert "a → b → c → a" in fresh["a"] and "no value named “gone”" in fresh["e"]


def _fault(scope: Scope, text: str) -> QuantityError:
    with pytest.raises(QuantityError) as fault:
        scope.evaluate(text, "length")
    return fault.value


def test_work_beyond_the_limit_is_refused_before_it_is_done() -> None:
    budget.begin(50)
    with pytest.raises(budget.TooMuchWork, match="more work"):
        Scope().evaluate("1" + "+1" * 150, "length")
    assert Scope().evaluate("1+1", "length") == 2  # what is small still fits
    budget.end()


def test_names_that_mean_something_else_are_refused() -> None:
    for name in ("mm", "sin", "2x", "a b", "", "pi"):
        with pytest.raises(QuantityError):
            check_name(name)
    assert check_name("wall_2") == "wall_2"


def test_numbers_are_shown_without_noise() -> None:
    assert [show(v) for v in (2.0, 2.25, -0.0001, 1234.5678)] == ["2", "2.25", "0", "1234.568"]
