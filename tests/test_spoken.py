"""A document in inches says everything in inches: sizes, refusals, hints, gauges, the report."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from playwright.sync_api import Page

from supplecast.document.model import Document, parse_document
from supplecast.document.rebuild import Memory
from supplecast.document.units import relabelled
from supplecast.hints import heard
from supplecast.kernel import measure
from supplecast.molding.gauge import Gauge, GaugeFigure
from supplecast.web.spoken import Voice, said, spoken
from supplecast.wording import with_commas, with_points
from supplecast.workers.engine import Engine
from tests.conftest import STEPS, built, part
from tests.referee.browser import Hands
from tests.referee.desk import Desk
from tests.test_hints import CASES
from tests.test_steps import BAD

METRIC = re.compile(r"\bmm\b|[cm]m[²³](?<!g/cm³)|millimet|\d g\b(?!/)")
SHEETS = Path(__file__).parent / "sheets"


def in_inches(document: Document) -> Document:
    """The same document with every length typed in inches, those too that a step would suggest."""
    text = json.dumps(relabelled(document, "in").model_dump(mode="json"), ensure_ascii=False)
    return parse_document(re.sub(r"(-?\d+(?:\.\d+)?) mm", lambda m: f"{float(m[1]) / 25.4:.12g} in", text))


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = Engine(slots=1)
    yield made
    made.close()


@given(st.floats(0.001, 5000), st.sampled_from([("", 1), ("²", 2), ("³", 3)]), st.sampled_from([("in", 25.4), ("cm", 10.0)]))
def test_sizes_keep_their_value_to_the_figures_they_had(size: float, power: tuple[str, int], unit: tuple[str, float]) -> None:
    mark, exponent = power
    name, scale = unit
    wrote = f"{size:.4g}"
    turned = said(f"It is {wrote} mm{mark} off.", Voice(name))
    found = re.fullmatch(rf"It is (\S+) {name}{mark} off\.", turned)
    assert found and float(found[1]) == pytest.approx(float(wrote) / scale**exponent, rel=6e-3, abs=1e-9)


def test_rows_places_and_what_was_typed() -> None:
    inches = Voice("in")
    assert said("a rectangle of 50.8 × 25.4 mm at (12.7, 25.4, -2.54)", inches) == "a rectangle of 2 × 1 in at (0.5, 1, -0.1)"
    assert said("walls of 25.4 to 50.8 mm; 2 faces, 3 mm²/s", inches) == "walls of 1 to 2 in; 2 faces, 3 mm²/s"
    assert (
        said("“2 mm” cannot be reached, only up to about 25.4 mm", inches) == "“2 mm” cannot be reached, only up to about 1 in"
    )
    assert said("Step 3: 4 pieces at 2.2 mm.", Voice("mm")) == "Step 3: 4 pieces at 2.2 mm."
    # An ounce is 28.349523125 g and a pound sixteen of them (international avoirdupois, 1959; from memory).
    assert said("weighs 28.35 g, of 1.05 g/cm³, 16.39 cm³", inches) == "weighs 1 oz, of 1.05 g/cm³, 1 in³"
    assert said("1.361 kg", inches) == "3 lb" and said("12 g", Voice("cm")) == "12 g"


def test_masses_money_and_the_comma_as_the_reader_writes_them() -> None:
    reader = Voice("mm", ",", "oz", "€")
    assert (
        said("2.5 mm at (1.5, 2, 3.25); 28.35 g, resin for ¤0.09", reader) == "2,5 mm at (1,5; 2; 3,25); 1 oz, resin for € 0,09"
    )
    assert said("“2.5 mm” is 0.4536 kg", replace(reader, mass="lb")) == "“2.5 mm” is 1 lb"
    assert said("resin for ¤0.09", Voice()) == "resin for 0.09"
    gauge = Gauge("mass", "Mass, PP", "453.6", "g", "none", "resin for ¤1.50", figures=(GaugeFigure("x", "0.5 g"),))
    told = spoken(gauge, replace(reader, mass="kg"))
    assert (told.value, told.unit, told.verdict, told.figures[0].words) == ("0,4536", "kg", "resin for € 1,50", "0,0005 kg")
    assert spoken(Gauge("price", "A piece", "¤0.42", "", "none", ""), reader).value == "€ 0,42"


@given(st.text("0123456789.,()+ max", max_size=30))
def test_a_point_shown_as_a_comma_is_read_as_a_point(text: str) -> None:
    assert with_points(with_commas(text)) == with_points(text)


@pytest.mark.parametrize(("steps", "step", "field", "words"), BAD, ids=[f"{step}-{words[:30]}" for _, step, _, words in BAD])
def test_refusals_speak_inches(steps: STEPS, step: str, field: str, words: str) -> None:
    outcome = built(in_inches(part(steps))).outcome(step)
    assert outcome.status == "failed" and outcome.field == field
    told = spoken(outcome, Voice("in"))
    assert not METRIC.search(f"{told.message} {told.hint} {told.notes}"), told


@pytest.mark.parametrize("name", CASES)
def test_hints_and_what_they_would_set_speak_inches(name: str) -> None:
    document = in_inches(part(CASES[name][0]))
    told = [spoken(hint, Voice("in")) for hint in heard(document, built(document, memory=Memory()))]
    assert not any(METRIC.search(str(hint)) for hint in told), told


@pytest.mark.parametrize("sheet", ["ribbed-cover", "snap-lid", "tied-boss", "stepped-wall"])
def test_a_part_in_inches_shows_no_millimetres(desk: Desk, sheet: str) -> None:
    metric = parse_document((SHEETS / f"{sheet}.supple.json").read_bytes())
    document = in_inches(metric).model_copy(update={"id": "untitled"})
    card = desk.library.add_document(desk.library.create_project("Inches").id, document)
    result = desk.done(_job(desk, card.id, "build"))["result"]
    assert result["ok"]
    assert not METRIC.search(str(result["steps"]))
    gauges = desk.done(_job(desk, card.id, "gauges"))["result"]["gauges"]
    assert gauges and not METRIC.search(str([{k: v for k, v in gauge.items() if k != "figures"} for gauge in gauges]))
    report = _job(desk, card.id, "report")
    desk.done(report)
    page = desk.client.get(f"/documents/{card.id}/report?job={report}").get_data(as_text=True)
    words = re.sub(r"<[^>]*>", " ", page[page.index("<article") :])
    assert "in" in words and not METRIC.search(words), re.findall(r".{30}\bmm.{10}", words)
    metric_volumes = [measure.volume(entry.body.solid) for entry in built(metric).state.bodies.values()]
    assert sum(body["volume"] for body in result["bodies"]) == pytest.approx(sum(metric_volumes), rel=1e-9)


def _job(desk: Desk, document: str, what: str) -> Any:
    return desk.post(f"/api/documents/{document}/{what}").get_json()["job"]


def test_a_reader_with_commas_sees_and_types_them(page: Page) -> None:
    page.goto("/numbers")
    page.get_by_label("Decimal sign").select_option(",")
    page.get_by_label("Masses").select_option("kg")
    page.get_by_label("Currency").fill("kr")
    page.get_by_role("button", name="Keep").click()
    page.get_by_text("2,5 mm; 0,0125 kg, resin for kr 0,09").wait_for()
    hands = Hands(page)
    hands.begin("Commas")
    outline = hands.sketch("rectangle")
    hands.type(outline, "figures.f1.width", "40,5 mm")
    raised = hands.add("extrude")
    hands.type(raised, "distance", "2.5 mm")
    hands.settle()
    assert page.locator(f'input[data-step="{raised}"][data-field="distance"]').input_value() == "2,5 mm"
    assert page.evaluate("bench.size").startswith("40,50 × ") and page.evaluate("bench.result.ok")
    page.locator("[data-gauge='mass']", has_text="kg").wait_for()
    page.locator("[data-gauge='mass']", has_text="resin for kr 0,0").wait_for()
