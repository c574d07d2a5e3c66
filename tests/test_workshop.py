"""Three parts built in Chromium, by mouse and keys: a spool, a bent handle, a bracket with a tilted pad. Sizes are invented."""

from __future__ import annotations

import math
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page

from tests.referee.browser import Shop


@pytest.fixture
def shop(page: Page) -> Iterator[Shop]:
    made = Shop(page)
    made.begin("Shop")
    yield made


def test_a_spool_of_thin_wall_with_holes_on_a_circle(shop: Shop) -> None:
    line = shop.chain("front", (18, 0), (8, 0), (8, 24), (18, 24))
    (r0, z0), (r1, _), (_, z1), (r3, _) = shop.points(line, (18, 0))
    turned = shop.add("revolve")
    shop.choose(turned, "fill", "as a wall")
    shop.settle()
    shop.choose(turned, "side", "left")
    shop.settle()
    shop.type(turned, "wall", "2 mm")
    inner = (r1 - 2) ** 2
    spool = math.pi * ((r0**2 - inner) * 2 + (r1**2 - inner) * (z1 - z0) + (r3**2 - inner) * 2)
    assert shop.volume() == pytest.approx(spool, rel=1e-6)

    spot = shop.figure("circle", diameter="2 mm", x="13 mm")
    hole = shop.add("hole")
    shop.type(hole, "diameter", "3 mm")
    shop.type(hole, "into.offset", f"{z1 + 2} mm")
    shop.choose(hole, "deep", "to a depth")
    shop.settle()
    shop.type(hole, "depth", "4 mm")
    ring = shop.add("ring")
    shop.type(ring, "count", "6")
    shop.settle()
    assert spot and shop.volume() == pytest.approx(spool - 6 * math.pi * 1.5**2 * 2, rel=1e-6)
    shop.type(ring, "count", "8")
    assert shop.volume() == pytest.approx(spool - 8 * math.pi * 1.5**2 * 2, rel=1e-6)


def test_a_bent_handle_is_swept(shop: Shop) -> None:
    path = shop.chain("front", (0, 0), (0, 30), (40, 30), (40, 0))
    corners = shop.points(path, (0, 0))
    length = sum(math.dist(a, b) for a, b in zip(corners, corners[1:], strict=False))
    shop.figure("circle", diameter="8 mm", x="70 mm")
    swept = shop.add("sweep")
    shop.settle()
    assert shop.volume() == pytest.approx(16 * math.pi * length, rel=1e-6)
    shop.choose(swept, "corners", "rounded")
    shop.settle()
    shop.type(swept, "bend", "10 mm")
    assert shop.volume() == pytest.approx(16 * math.pi * (length - 2 * (20 - 5 * math.pi)), rel=1e-6)
    shop.type(swept, "bend", "3 mm")
    fault = shop.page.locator(f'[data-line="{swept}"] [role="alert"]').inner_text()
    assert "into a bend of radius 3 mm" in fault


def test_a_bracket_with_a_tilted_pad(shop: Shop) -> None:
    page = shop.page
    shop.figure("rectangle", width="60 mm", height="60 mm")
    plate = shop.add("extrude")
    shop.type(plate, "distance", "8 mm")

    datum = shop.add("plane")
    shop.choose(datum, "how", "through an edge")
    shop.settle()
    page.locator(f'select[data-step="{datum}"][data-field="line"]').select_option("pick")
    page.get_by_text("Pick an edge or a round face").first.wait_for()
    shop.settle()
    edge = shop.find(plate, "edge", 12, LOW_EDGE)
    shop.after(lambda: page.mouse.click(edge["x"], edge["y"]))
    shop.settle()
    assert page.evaluate("bench.result.datums.length") == 1

    pad = shop.figure("circle", plane=f"datum:{datum}", diameter="10 mm", y="25 mm")
    raised = shop.add("extrude")
    shop.choose(raised, "extent", "to the next body")
    shop.settle()
    shop.choose(raised, "direction", "down")
    shop.settle()
    # At 45° through the edge, a point 25 mm up the datum plane is 25 mm from the plate along the plane's normal.
    assert pad and shop.volume() == pytest.approx(60 * 60 * 8 + 25 * math.pi * 25, rel=1e-6)

    shop.figure("circle", diameter="2 mm", x="22 mm", y="-22 mm")
    hole = shop.add("screw hole")
    shop.choose(hole, "kind", "counterbore")
    shop.settle()
    shop.type(hole, "into.offset", "8 mm")
    shop.add("mirror")
    one = math.pi * (3.25**2 * 3.4 + 1.7**2 * 4.6)  # M3, medium: 3.4; head 6.5 wide, 3.4 deep
    page.locator("select[data-field='of']").last.select_option("steps")
    shop.settle()
    page.locator("[data-field='steps'][data-turn]").last.click()
    shop.settle()
    assert shop.volume() == pytest.approx(60 * 60 * 8 + 25 * math.pi * 25 - 2 * one, rel=1e-6)


LOW_EDGE = """([body, edge]) => { const { read } = bench.viewer.bodies.get(body).geometry;
  const i = (edge ? read.edgeEnds[edge - 1] : 0) * 3; const s = read.segments;
  return Math.abs(s[i + 1] + 30) < 0.01 && Math.abs(s[i + 4] + 30) < 0.01 && s[i + 2] > 7.9 && s[i + 5] > 7.9; }"""


def test_measuring_looks_contacts_and_units(shop: Shop) -> None:
    page = shop.page
    shop.figure("rectangle", width="40 mm", height="30 mm")
    first = shop.add("extrude")
    shop.type(first, "distance", "10 mm")
    shop.figure("rectangle", width="40 mm", height="30 mm", x="30 mm")
    second = shop.add("extrude")
    shop.choose(second, "result", "new")
    shop.settle()
    shop.type(second, "distance", "20 mm")
    contact = page.locator("[data-contact]")
    contact.wait_for()
    assert "Body and Body 2 are in the same space: 3000 mm³" in contact.inner_text()
    shop.after(lambda: contact.get_by_role("button", name="join them").click())
    shop.settle()
    assert page.evaluate("bench.result.bodies.length") == 1 and contact.count() == 0

    page.locator("button[title='Name, colour, see through']").first.click()
    name = page.locator("[data-look-name]").first
    name.fill("Base")
    shop.after(lambda: name.press("Enter"))
    shop.settle()
    assert page.evaluate("bench.result.bodies[0].name") == "Base"

    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("f")
    seen = "[bench.viewer.hidden.size, bench.bodies[0].shown]"
    undo = page.evaluate("bench.undoCount")
    page.get_by_title("Hide", exact=True).first.click()
    page.reload()  # what one looks at is no change of the document, and stays as it was left
    shop.settle()
    assert page.evaluate(seen) == [1, False] and page.evaluate("bench.undoCount") == undo
    page.get_by_title("Show", exact=True).first.click()
    assert page.evaluate(seen) == [0, True]
    top = shop.find(first, "face", 12, FLAT_UP)
    page.mouse.click(top["x"], top["y"])
    assert page.evaluate("[bench.chosen.length, bench.viewer.lit.length]") == [1, 1]
    shop.type(first, "distance", "11 mm")  # another shape: what was picked on the old one is picked no more
    assert page.evaluate("[bench.chosen.length, bench.viewer.lit.length]") == [0, 0]
    shop.type(first, "distance", "10 mm")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("m")
    top = shop.find(first, "face", 12, FLAT_UP)
    page.mouse.click(top["x"], top["y"])
    page.locator("#measures").get_by_text("area").wait_for()
    page.locator("#keep-measure").click()
    page.locator(".step").filter(has_text="Measure").wait_for()
    shop.settle()
    assert "mm²" in page.locator(".step").last.inner_text()

    page.locator("[data-unit-field]").select_option("in")
    page.locator("#unit-ask").get_by_text("2.7559 × 1.1811 × 0.7874 in").first.wait_for()
    before = shop.volume()
    page.locator("[data-keeps='size']").click()
    page.wait_for_function("() => document.getElementById('bench').dataset.unit === 'in'")
    shop.ready()
    assert shop.volume() == pytest.approx(before, rel=1e-9)


FLAT_UP = """([body, face]) => { const { read } = bench.viewer.bodies.get(body).geometry;
  const t = (face ? read.faceEnds[face - 1] : 0) * 3; const i = read.triangles[t] * 3; return read.normals[i + 2] > 0.99; }"""
