"""For every hand and eye: each screen looked through by axe-core, by light and by dark, with what opens over it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Literal

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from supplecast.web import demo
from tests.conftest import extrude, part, rectangle
from tests.referee import browser
from tests.referee.browser import Shop
from tests.test_toolroom import opened

Scheme = Literal["light", "dark"]
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "best-practice"]
ASIDE = ("/", "/lessons", "/guide", "/handbook", "/resins", "/numbers")


def faults(page: Page, where: str, scheme: Scheme) -> list[tuple[Any, ...]]:
    """What axe-core finds: where, how bad, the rule, and the first place. Colours of a part in WebGL are not seen by it."""
    rules = RULES if scheme == "light" else ["color-contrast"]  # by dark nothing else is another
    found = Axe().run(page, options={"runOnly": rules}).response["violations"]
    return [(where, one["impact"], one["id"], one["nodes"][0]["html"][:200]) for one in found if one["impact"] != "minor"]


@pytest.fixture(params=["light", "dark"])
def scheme(request: pytest.FixtureRequest, page: Page) -> Iterator[Scheme]:
    page.emulate_media(color_scheme=request.param)
    yield request.param


def test_every_screen_can_be_read_and_heard(page: Page, scheme: Scheme, tmp_path: Path) -> None:
    page.set_default_timeout(60_000)
    found = []
    for place in ASIDE:
        page.goto(place)
        found += faults(page, place, scheme)
    hands = Shop(page)
    knob = next(d for d in demo.documents() if d.name == "Tuning knob")
    opened(page, f"Seen by {scheme}", tmp_path, knob.to_json())
    hands.ready()
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    found += faults(page, "part", scheme)
    paper = page.evaluate("getComputedStyle(document.querySelector('#bench header')).backgroundColor")
    assert (paper == "rgb(251, 252, 251)") == (scheme == "light")
    for what, opens in (
        ("gauge", lambda: page.locator('[data-gauge="draft"]').click()),
        ("steps", lambda: page.keyboard.press("/")),
        ("keys", lambda: page.keyboard.press("?")),
        ("section", lambda: page.keyboard.press("s")),
        ("sketch", lambda: page.locator("[data-draw]").first.click()),
    ):
        opens()
        page.evaluate("atRest()")
        found += faults(page, what, scheme)
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
    here = f"/documents/{page.evaluate('bench.id')}"
    for screen in ("handoff", "history", "compare", "report"):
        page.goto(f"{here}/{screen}")
        expect(page.locator("#pdf" if screen == "report" else "h1").first).to_be_visible()
        found += faults(page, screen, scheme)
    assert found == []


def test_the_reader_may_have_it_dark(page: Page) -> None:
    """What is kept with the browser goes before what the system has; other pages follow, and paper stays white."""
    page.emulate_media(color_scheme="light")
    page.goto("/numbers")
    page.locator("#theme").select_option("dark")
    page.get_by_role("button", name="Keep").click()
    expect(page.locator("footer")).to_contain_text("kept")
    page.goto("/")
    ground = "getComputedStyle(document.body).backgroundColor"
    assert page.evaluate(ground) == "rgb(14, 22, 21)"
    page.emulate_media(media="print")
    assert page.evaluate(ground) == "rgb(255, 255, 255)"


def touched(page: Page) -> Callable[..., None]:
    """Fingers at some places: `touched(page)("Start", (300, 300))`, then "Move" and "End"."""
    session = page.context.new_cdp_session(page)

    def touch(kind: str, *places: tuple[float, float]) -> None:
        points = [{"x": x, "y": y, "id": number} for number, (x, y) in enumerate(places)]
        session.send("Input.dispatchTouchEvent", {"type": f"touch{kind}", "touchPoints": points})

    return touch


def test_fingers_turn_the_view_and_spread_it(address: str, tmp_path: Path) -> None:
    """One turns; two move and spread, what is between them staying there, on the sheet as in the view; all is 40 px high."""
    knob = next(d for d in demo.documents() if d.name == "Tuning knob")
    with browser.opened(address, has_touch=True, is_mobile=True, viewport={"width": 1024, "height": 768}) as page:
        opened(page, "Fingers", tmp_path, knob.to_json())
        Shop(page).ready()
        touch = touched(page)
        turned = "bench.viewer.eye.yaw"
        before = page.evaluate(turned)
        touch("Start", (300, 300))
        touch("Move", (350, 300))
        touch("End")
        assert page.evaluate(turned) == pytest.approx(before - 50 * 0.008)
        between = "(() => { const e = bench.viewer.eye, { right, up } = e.axes(), b = e.canvas.getBoundingClientRect();"
        between += " const x = (%s - b.left - b.width / 2) * e.unit, y = (b.height / 2 - (300 - b.top)) * e.unit;"
        between += " return [e.target.dot(right) + x, e.target.dot(up) + y, e.span]; })()"
        seen = page.evaluate(between % 300)
        touch("Start", (250, 300))
        touch("Start", (250, 300), (350, 300))
        touch("Move", (260, 300), (460, 300))
        touch("End")
        there = page.evaluate(between % 360)
        assert there == pytest.approx([seen[0], seen[1], seen[2] / 2]) and page.evaluate(turned) == pytest.approx(before - 0.4)
        low = "[...document.querySelectorAll('#sheet :is(a, button, select, input)')].filter((e) => e.offsetParent)"
        low += ".map((e) => e.getBoundingClientRect()).filter(({ width, height }) => Math.min(width, height) < 39.5).length"
        assert page.evaluate(low) == 0
        page.locator("[data-draw]").first.tap()
        page.wait_for_selector("html[data-sketching]", state="attached")
        page.evaluate("atRest()")
        unit, points = page.evaluate("[bench.sketcher.drawing.unit, Object.keys(bench.sketcher.scene.points).length]")
        page.locator('[data-slot="line"]').tap()
        touch("Start", (250, 300))
        touch("Start", (250, 300), (350, 300))
        touch("Move", (200, 300), (400, 300))
        touch("End")
        page.evaluate("atRest()")
        assert page.evaluate("bench.sketcher.drawing.unit") == pytest.approx(unit / 2)
        assert page.evaluate("Object.keys(bench.sketcher.scene.points).length") == points


def test_edges_are_picked_without_a_pointer(page: Page, tmp_path: Path) -> None:
    """A block is rounded along two edges by keys alone: they are gone through, lit and said; picked, and unpicked likewise."""
    block = part([rectangle("s", "40", "30"), extrude("e", "s", "10")])
    opened(page, "Keys alone", tmp_path, block.to_json())
    hands = Shop(page)
    hands.ready()
    foot = page.locator("footer .foot-say").locator("visible=true")
    press = page.keyboard.press
    press("/")
    page.keyboard.type("fillet")
    press("Enter")
    hands.settle()
    press("ArrowDown")  # out of the radius, which has the focus
    expect(foot).to_contain_text("edge 1 of 12")
    expect(foot).to_contain_text(re.compile(r"edge 1 of 12 at [-\d., ]+: edge between "))
    for key in (" ", "ArrowRight", " ", "ArrowRight", " ", " "):
        press(key)
        hands.settle()
    expect(page.locator(".chip.is-on")).to_have_text("2 picked")
    press("Enter")
    hands.settle()
    lengths = [edge for edge in (40, 30, 10) for _ in range(4)]
    gone = 12000 - page.evaluate("bench.result.bodies[0].volume")
    radius = 2.0
    per = (1 - math.pi / 4) * radius**2
    assert any(gone == pytest.approx(per * (a + b), rel=0.1) for a in lengths for b in lengths)
    page.locator("#view canvas").focus()
    press("ArrowRight")
    expect(foot).to_contain_text("face 1 of")
    press("Escape")
    expect(foot).to_have_text("no face or edge at hand")
    assert page.evaluate("bench.viewer.hover") is None
