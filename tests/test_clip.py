"""A C-shaped clip drawn with the mouse and the keys on the drawing sheet, fixed to the last freedom, and raised.

Right half of the middle line: a quarter arc of radius 15 about the origin, an arm of 12 that runs on from it, and two equal
arcs of radius 4 that lead outwards, a quarter turn each. It is mirrored, and a wall of 1 mm to each side is offset with round
ends. By Steiner's formula the band along a smooth middle line of length L has the area 2·1·L + π·1², as long as no bend is
tighter than the offset; here L = 2·(15·π/2 + 12 + 2·4·π/2).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.referee.browser import Hands, SketchHands

LENGTH = 2 * (15 * math.pi / 2 + 12 + 2 * 4 * math.pi / 2)
AREA = 2 * LENGTH + math.pi


@pytest.fixture
def hands(page: Page) -> Iterator[Hands]:
    made = Hands(page)
    made.begin("Clip")
    yield made


def test_a_clip_is_drawn_fixed_and_raised(hands: Hands, tmp_path: Path) -> None:
    page, sheet = hands.page, SketchHands(hands.page)
    hands.add("sketch")
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.wait_for_function("() => bench.sketcher.scene && bench.sketcher.frame")
    page.evaluate("{ const s = bench.sketcher; s.drawing.unit = 0.08; s.drawing.centre = [0, 4]; s.redraw(); }")

    page.keyboard.press("g")  # all that is drawn now is construction: the wall comes by offset
    sheet.take("1", "line")
    sheet.click((0, 0), (0, 24.5))
    sheet.let_go()
    sheet.take("4", "arc by centre")
    sheet.click((0, 0), (0.1, -15), (15, 0))
    sheet.let_go()
    sheet.take("1", "line")
    sheet.click((15, 0), (15, 11))
    page.keyboard.press("a")
    sheet.click((19, 15))
    page.keyboard.press("a")
    sheet.click((23, 19))
    sheet.let_go()
    # The upright axis 1; the big arc about the origin 3; the arm that touches it 1 more; each tangent arc 2 more.
    assert sheet.freedoms() == 9

    sheet.fix("v", (0, -15), (0, 0))
    sheet.fix("h", (15, 0), (0, 0))
    sheet.fix("v", (19, 15), (19, 11))
    sheet.fix("h", (23, 19), (19, 19))
    sheet.fix("e", (16.17, 13.83), (21.83, 16.17))
    sheet.size((0, 20), (-6, 20), "25")
    sheet.size((10.6, -10.6), (14, -14), "15")
    sheet.size((15, 6), (20, 6), "12")
    sheet.size((16.17, 14.83), (12, 18), "4")
    assert sheet.freedoms() == 0
    assert page.locator("#freedom-words").inner_text() == "Fully fixed"

    sheet.let_go()
    sheet.take("Shift+Digit7", "mirror")
    sheet.click((10.6, -10.6), (15, 6), (16.17, 14.83), (21.83, 17.17), (0, 20))
    page.keyboard.press("Enter")
    page.wait_for_function("() => bench.sketcher.scene.entities.length === 9")
    sheet.let_go()
    sheet.take("0", "offset")
    sheet.click((15, 6))
    for choice in ("both", "round"):
        page.locator("#belt-options").get_by_role("button", name=choice, exact=True).click()
    page.locator("#belt-options").get_by_label("distance").fill("1")
    page.keyboard.press("Enter")
    page.wait_for_function("() => bench.sketcher.scene.regions.length === 1")
    assert sheet.freedoms() == 0
    assert page.evaluate("bench.sketcher.scene.area") == pytest.approx(AREA, rel=1e-9)

    with page.expect_download() as got:
        page.locator("#write-dxf").click()
    got.value.save_as(tmp_path / "clip.dxf")
    import ezdxf

    read = ezdxf.readfile(tmp_path / "clip.dxf")
    arcs = [e for e in read.modelspace() if e.dxftype() == "ARC" and e.dxf.layer == "outline"]
    assert sorted({round(a.dxf.radius, 9) for a in arcs}) == [1, 3, 5, 14, 16] and read.units == 4

    hands.after(lambda: page.locator("#finish").click())
    hands.settle()
    raised = hands.add("extrude")
    hands.type(raised, "distance", "10 mm")
    (body,) = page.evaluate("bench.result.bodies")
    assert body["volume"] == pytest.approx(10 * AREA, rel=1e-9) and body["faces"] == 2 * 8 + 2 + 2
