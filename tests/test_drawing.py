"""The hand on the drawing sheet, in Chromium: numbers that never miss, keys that mean one thing, whole outlines fully fixed."""

from __future__ import annotations

import math
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page

from tests.referee.browser import Hands, SketchHands


class Sheet(SketchHands):
    """An open drawing sheet, worked by keys and clicks."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.acts = 0

    def keys(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
        self.acts += len(keys)

    def write(self, text: str, *ends: str) -> None:
        """Type into whatever takes it, then keys such as Enter."""
        count = self.page.evaluate("bench.sketcher.counted")
        picks = self.page.evaluate("bench.sketcher.picks.length")
        self.page.keyboard.type(text)
        self.acts += 1
        for key in ends or ("Enter",):
            self.page.keyboard.press(key)
        if not ends or "Enter" in ends:
            self.page.wait_for_function(
                "([c, p]) => bench.sketcher.counted > c || bench.sketcher.picks.length !== p"
                " || document.activeElement.matches('.belt-field')",
                arg=[count, picks],
            )
        self.quiet()
        self.page.evaluate("atRest()")

    def say(self) -> str:
        return str(self.page.evaluate("bench.sk.say"))

    def focus(self) -> str:
        return str(self.page.evaluate("document.activeElement.getAttribute('aria-label') || ''"))

    def area(self) -> float:
        return float(self.page.evaluate("bench.sketcher.scene.area"))

    def hand(self) -> str:
        return str(self.page.evaluate("bench.sketcher.hand"))


@pytest.fixture
def sheet(page: Page) -> Iterator[Sheet]:
    hands = Hands(page)
    hands.begin("Sheet")
    hands.add("sketch")
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.wait_for_function("() => bench.sketcher.scene && bench.sketcher.frame")
    page.evaluate("atRest()")
    yield Sheet(page)


def test_all_is_typed_without_the_pointer_and_fully_fixed(sheet: Sheet) -> None:
    sheet.keys("3", "Tab")
    assert sheet.focus() == "at"
    sheet.write("10, 5")
    assert sheet.focus() == "diameter"
    sheet.write("12")
    assert sheet.area() == pytest.approx(36 * math.pi) and sheet.freedoms() == 0
    sheet.keys("2", "Tab")
    sheet.write("30, 0")
    sheet.write("40")
    assert sheet.focus() == "height", sheet.say()  # no height is taken from where the pointer happened to be
    sheet.keys("Enter")
    assert "type the height" in sheet.say()
    sheet.write("300")
    assert sheet.area() == pytest.approx(36 * math.pi + 12000) and sheet.freedoms() == 0
    sheet.keys("6", "Tab")
    sheet.write("-40, 0")
    sheet.write("30")
    assert sheet.focus() == "width"
    sheet.write("14")
    assert sheet.area() == pytest.approx(36 * math.pi + 12000 + 420 + 49 * math.pi)


def test_typed_places_follow_each_other_and_nothing_is_dropped_in_silence(sheet: Sheet) -> None:
    sheet.keys("1", "Tab")
    for place in ("0, 0", "30, 0", "30; 20", "0 20"):
        sheet.write(place)
        assert sheet.focus() == "at"
    assert sheet.freedoms() == 0
    sheet.write("7")
    assert "no place" in sheet.say() and sheet.focus() == "at"
    sheet.page.keyboard.press("Control+a")
    sheet.write("1q, 0")
    assert "cannot be read" in sheet.say()
    sheet.page.keyboard.press("Control+a")
    sheet.write("0, 0")
    assert sheet.area() == pytest.approx(600) and sheet.freedoms() == 0


def test_digits_choose_tools_only_while_no_number_is_awaited(sheet: Sheet) -> None:
    sheet.keys("2")
    sheet.click((0, 0))
    sheet.write("60", "Tab")
    sheet.write("40")
    sheet.keys("Escape", "Shift+4")
    assert sheet.hand() == "round"
    sheet.page.keyboard.press("Control+a")
    sheet.page.keyboard.type("0.5")
    sheet.keys("Enter")
    assert sheet.hand() == "round" and sheet.page.locator(".belt-field[aria-label=radius]").input_value() == "0.5"
    sheet.keys("Escape", "Escape", "0")
    assert sheet.hand() == "offset"
    sheet.click((30, 0))
    sheet.page.get_by_role("button", name="in", exact=True).click()
    before = sheet.area()
    count = sheet.page.evaluate("bench.sketcher.counted")
    sheet.keys("Enter")  # the option has the focus: Enter does what the foot says
    sheet.page.wait_for_function("c => bench.sketcher.counted > c", arg=count)
    assert sheet.area() == pytest.approx(before - 56 * 36) or sheet.area() == pytest.approx(56 * 36) or sheet.area() == before


def test_escape_takes_a_size_just_placed_away_and_leaves_one_that_was_there(sheet: Sheet) -> None:
    sheet.keys("1")
    sheet.click((0, 0), (40, 0))
    sheet.let_go()
    free = sheet.freedoms()
    sheet.keys("7")
    sheet.click((20, 0), (20, 8))
    sheet.page.wait_for_function("() => !bench.sketcher.input.hidden")
    sheet.keys("Escape")
    sheet.page.wait_for_function("f => bench.sketcher.scene.freedoms === f", arg=free)
    sheet.size((20, 0), (20, 8), "55")
    sheet.let_go()
    sheet.page.locator("[data-ids] .number").first.click()
    sheet.keys("Escape")
    assert sheet.page.evaluate("bench.sketcher.scene.sizes[0].value") == "55"


def test_the_count_of_a_row_is_typed_where_it_stands(sheet: Sheet) -> None:
    """Ten studs in a row: three typed numbers make them, one makes nine of them."""
    sheet.keys("3", "Tab")
    sheet.write("0, 0")
    sheet.write("4.8")
    sheet.keys("Escape")
    sheet.click((0, 2.4))
    sheet.keys("Shift+8")
    sheet.write("10", "Tab")
    sheet.write("8", "Enter")
    assert sheet.area() == pytest.approx(10 * 2.4**2 * math.pi) and sheet.freedoms() == 0
    sheet.page.locator(".row", has_text="how many in the row").locator(".number").click()
    sheet.write("9")
    assert sheet.area() == pytest.approx(9 * 2.4**2 * math.pi) and sheet.freedoms() == 0
