"""A two-shell instrument housing built in Chromium from nothing, to the lip and groove that join it. Sizes are invented."""

from __future__ import annotations

import math
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page

from tests.referee.browser import FLAT_TOP, UPRIGHT, Shop

FLAT_BOTTOM = FLAT_TOP.replace("> 0.99", "< -0.99")
VIEWS = {"above": "top", "below": "bottom", "aslant": "oblique"}


class Maker(Shop):
    """Hands that look from above and below, hide what is in the way, and pick faces for a field."""

    def look(self, where: str) -> None:
        self.page.evaluate("document.activeElement.blur()")
        self.page.locator(f'[data-look="{VIEWS[where]}"]').click()
        self.page.evaluate("atRest()")
        self.page.keyboard.press("f")
        self.page.evaluate("atRest()")

    def only(self, body: int | None) -> None:
        """Hide all bodies but one; None shows all again."""
        for index in range(self.page.evaluate("bench.bodies.length")):
            shown = self.page.evaluate(f"bench.bodies[{index}].shown")
            if shown != (body is None or index == body):
                self.page.locator("#things button[title='Hide'], #things button[title='Show']").nth(index).click()
        self.page.evaluate("atRest()")

    def pick(self, step: str, field: str, body: str, test: str) -> None:
        chip = self.page.locator(f'[data-step="{step}"][data-field="{field}"][data-pick]')
        chip.click()
        self.picking()
        spot = self.find(body, "face", 60, test)
        self.page.mouse.click(spot["x"], spot["y"])
        self.page.locator("#pickbar").get_by_text("1 picked").wait_for()
        self.after(lambda: self.page.locator("[data-done]").click())
        self.settle()

    def rounded(self, body: str, radius: str) -> None:
        """Uprights rounded: one picked, its rule taken."""
        self.look("aslant")
        new = self.add("fillet")
        self.picking()
        upright = self.find(body, "edge", 12, UPRIGHT)
        self.page.mouse.click(upright["x"], upright["y"])
        self.page.get_by_role("button", name=f"uprights of step {self.ids().index(body) + 1}").last.click()
        self.page.locator("#pickbar").get_by_text("4 picked").wait_for()
        self.after(lambda: self.page.locator("[data-done]").click())
        self.type(new, "radius", radius)


@pytest.fixture
def maker(page: Page) -> Iterator[Maker]:
    made = Maker(page)
    made.begin("Housing")
    yield made


def test_a_two_shell_housing(maker: Maker) -> None:
    page = maker.page
    # The lower half: drafted, rounded, hollowed with a thicker floor.
    maker.figure("rectangle", width="60 mm", height="40 mm")
    low = maker.add("extrude")
    maker.type(low, "distance", "18 mm")
    maker.choose(low, "direction", "down")
    maker.type(low, "draft", "1")
    maker.rounded(low, "6 mm")
    maker.look("above")
    page.mouse.click(*(maker.find(low, "face", 14, FLAT_TOP)[k] for k in "xy"))
    page.get_by_text("1 face; / adds").wait_for()
    shell = maker.add("shell")
    maker.type(shell, "wall", "2 mm")
    even = maker.volume()
    maker.open(shell)
    maker.after(lambda: page.get_by_role("button", name="other wall").click())
    maker.settle()
    maker.look("below")
    maker.pick(shell, "others.0.faces", low, FLAT_BOTTOM)
    maker.type(shell, "others.0.wall", "3 mm")
    inner = (60 - 4 - 2 * 15.5 * math.tan(math.radians(1))) * (40 - 4 - 2 * 15.5 * math.tan(math.radians(1)))
    assert maker.volume() - even == pytest.approx(inner - 4 * (1 - math.pi / 4) * 16, rel=0.01)
    maker.look("above")

    # Four bosses: one, and a pattern of it, pilots and all.
    spot = maker.figure("circle", diameter="2 mm", x="-22 mm", y="-12 mm", raised="-4 mm")
    before = maker.volume()
    boss = maker.add("boss")
    maker.settle()
    maker.type(boss, "floor", "1.5 mm")
    one = maker.volume() - before
    row = maker.add("pattern")
    maker.type(row, "count", "2")
    maker.type(row, "spacing", "44 mm")
    maker.open(row)
    maker.type(row, "rows", "2")
    maker.type(row, "row_spacing", "24 mm")
    assert spot and maker.volume() - before == pytest.approx(4 * one, rel=1e-6)

    # Six ribs: one whose ends run on to the walls, its share of the wall shown, and five copies.
    before = maker.volume()
    line = maker.chain("top", (-15, -4), (-15, 4))
    maker.type(line, "on.offset", "-8 mm")
    ribs = maker.add("rib")
    maker.settle()
    maker.type(ribs, "thickness", "1 mm")
    copies = maker.add("pattern")
    maker.type(copies, "count", "6")
    maker.type(copies, "spacing", "6 mm")
    assert "of the 3 wall" in page.locator(f'[data-line="{ribs}"] .reading').inner_text()
    deep, lean = 18 - 3 - 8, math.tan(math.radians(1))  # as ABS asks
    across = 40 - 4 - 2 * (8 + deep / 2) * math.tan(math.radians(1))
    assert maker.volume() - before == pytest.approx(6 * across * deep * (1 + deep * lean), rel=0.01)

    # The upper half, and the pair that lets them find each other.
    maker.figure("rectangle", width="60 mm", height="40 mm")
    high = maker.add("extrude")
    maker.choose(high, "result", "new")
    maker.settle()
    maker.type(high, "distance", "8 mm")
    maker.type(high, "draft", "1")
    maker.only(1)
    maker.rounded(high, "6 mm")
    maker.look("below")
    page.mouse.click(*(maker.find(high, "face", 14, FLAT_BOTTOM)[k] for k in "xy"))
    page.get_by_text("1 face; / adds").wait_for()
    lid = maker.add("shell")
    maker.type(lid, "wall", "2 mm")

    pair = maker.add("lip")
    maker.choose(pair, "make", "both halves")
    maker.settle()
    maker.look("below")
    maker.pick(pair, "mate", high, FLAT_BOTTOM)
    maker.only(0)
    maker.look("above")
    rim = FLAT_TOP.replace("> 0.99", "> 0.99 && Math.abs(read.points[i + 2]) < 0.001")
    maker.pick(pair, "rim", low, rim)
    maker.only(None)
    maker.settle()
    assert page.evaluate("bench.result.ok"), page.evaluate("bench.result.steps.map((s) => s.message)")
    assert "Fits: 0.1 between lip and groove, and nothing overlaps" in page.locator(f'[data-line="{pair}"]').inner_text()
    assert page.evaluate("bench.result.bodies.length") == 2
