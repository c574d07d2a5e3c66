"""Refreshes docs/screenshots from the demo project, in headless Chromium.

python -m scripts.shots
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page

from scripts.on_screen import demo_page

FOLDER = Path(__file__).parents[1] / "docs" / "screenshots"


def main() -> int:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with demo_page(1280, 800) as page:
        _take(page)
    return 0


def _take(page: Page) -> None:
    def ready() -> None:
        page.wait_for_selector("html[data-ready]", state="attached", timeout=200_000)
        page.evaluate("atRest()")

    def keep(name: str) -> None:
        page.screenshot(path=FOLDER / f"{name}.png")

    page.goto("/")
    ready()
    keep("projects")
    page.goto("/documents/dusk-back-shell")
    ready()
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    keep("part")
    _judged(page, keep)
    page.keyboard.press("v")
    page.keyboard.press("s")
    page.wait_for_function("() => bench.viewer.cuts.children.length > 0")
    page.select_option('[aria-label="Kept sections"]', "bosses")
    page.evaluate("atRest()")
    page.mouse.click(*page.evaluate(_ON_THE_FLOOR))
    page.evaluate("atRest()")
    keep("section")
    page.keyboard.press("s")
    page.locator('[data-step="flo"][data-pick="edges"]').click()
    page.wait_for_function("() => bench.pickCount === 1 && /^\\d+ picked/.test(bench.pickWords)")
    page.evaluate("atRest()")
    keep("picking")
    page.keyboard.press("Escape")
    page.evaluate("atRest()")
    control = page.locator('input[data-step="flo"][data-field="radius"]')
    control.fill("40 mm")
    control.press("Enter")
    page.get_by_text("The largest that fits").first.wait_for()
    page.evaluate("atRest()")
    keep("refused")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Control+z")
    page.evaluate("atRest()")
    _notched(page)
    page.locator('[data-flag="split"]').scroll_into_view_if_needed()
    page.evaluate("atRest()")
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    keep("flagged")
    _sketched(page)
    keep("sketch")
    page.goto("/documents/dusk-back-shell/history")
    ready()
    name = page.get_by_label("Milestone name of revision").last
    name.fill("First sample")
    name.press("Enter")
    page.get_by_text("is “First sample”").wait_for()
    keep("history")
    _shaped(page, keep)
    _taught(page, keep)
    _compared(page, keep)
    _tooled(page, keep)
    page.goto("/documents/dusk-back-shell-tool/handoff")
    ready()
    page.get_by_role("button", name="Write").click()
    page.get_by_text("is ready").wait_for()
    page.get_by_label("Behind it").select_option("paper")
    page.get_by_label("Opened").fill("60")
    page.get_by_role("button", name="Make the picture").click()
    page.wait_for_selector("#picture img", timeout=120_000)
    keep("handoff")
    _assembled(page, keep)


def _tooled(page: Page, keep: Callable[[str], None]) -> None:
    """The tool with four places, drawn open; its parting surface; and the mold in which the knob is cast by hand."""
    for document, name in (("front-shell-tool", "tool"), ("knob-mold", "casting")):
        page.goto(f"/documents/dusk-{document}")
        page.wait_for_selector("html[data-ready]", state="attached", timeout=150_000)
        page.wait_for_function("() => bench.strip.length && !bench.judged.old", timeout=150_000)
        page.locator("#stroke").fill("100")
        page.get_by_role("button", name="Fit").click()
        page.evaluate("atRest()")
        keep(name)
    page.goto("/documents/dusk-front-shell-tool?at=sur")
    page.wait_for_selector("html[data-ready]", state="attached", timeout=150_000)
    page.get_by_role("button", name="Block", exact=True).last.click()
    page.evaluate("atRest()")  # the sheet is swapped once more when the build ends
    page.locator('[data-line="sur"]').scroll_into_view_if_needed()
    page.keyboard.press("v")
    page.keyboard.press("v")
    page.wait_for_selector("#strip .gauge-value", timeout=60_000)
    page.evaluate("atRest()")
    keep("parting")


# The page's place of a point in the middle of the floor, on the kept section.
_ON_THE_FLOOR = """() => { const { eye, canvas } = bench.viewer;
  const p = eye.camera.position.clone().set(10, 24, -25.9).project(eye.camera); const box = canvas.getBoundingClientRect();
  return [box.left + (p.x + 1) / 2 * box.width, box.top + (1 - p.y) / 2 * box.height]; }"""


def _judged(page: Page, keep: Callable[[str], None]) -> None:
    """Gauges of the back shell: what leans too little."""
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    page.click('[data-gauge="draft"]')
    page.evaluate("atRest()")
    keep("gauges")
    page.keyboard.press("Escape")
    page.evaluate("atRest()")


def _assembled(page: Page, keep: Callable[[str], None]) -> None:
    """All parts of the recorder drawn apart, with the list of what they weigh. It stays in the project, so it comes last."""
    page.goto("/")
    with page.expect_navigation():
        page.get_by_role("button", name="New assembly").first.click()
    page.wait_for_selector("html[data-ready]", state="attached", timeout=200_000)
    page.wait_for_selector("[data-gauge=parts]", timeout=120_000)
    page.locator("#stroke").fill("100")
    page.get_by_role("button", name="Fit").click()
    page.click("[data-gauge=parts]")
    page.evaluate("atRest()")
    keep("assembly")


def _compared(page: Page, keep: Callable[[str], None]) -> None:
    """The back shell against itself with a thicker wall, and the report."""
    page.goto("/documents/dusk-back-shell")
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    wall = page.locator('input[data-value="wall"]')
    wall.fill("2.4 mm")
    wall.press("Enter")
    page.evaluate("atRest()")
    page.wait_for_function("() => bench.strip.length && !bench.judged.old && bench.result.ok")
    head = page.evaluate("bench.revision")
    page.goto(f"/documents/dusk-back-shell/compare?first={head - 1}")
    page.wait_for_selector("html[data-ready]", state="attached", timeout=120_000)
    page.evaluate("atRest()")
    keep("compare")
    page.goto("/documents/dusk-back-shell/report")
    page.wait_for_selector("html[data-ready]", state="attached", timeout=120_000)
    page.evaluate("atRest()")
    keep("report")


def _taught(page: Page, keep: Callable[[str], None]) -> None:
    """A lesson on its third task."""
    page.goto("/lessons")
    page.locator('[data-lesson="mending"] button').first.click()
    page.wait_for_selector("html[data-ready]", state="attached", timeout=200_000)
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    for number in (2, 3):
        page.locator("#lesson-show").click()
        page.wait_for_function(f"() => document.getElementById('lesson-count').innerText.startsWith('{number} of')")
    page.wait_for_function("() => !bench.judged.old")
    page.evaluate("atRest()")
    keep("lesson")


def _shaped(page: Page, keep: Callable[[str], None]) -> None:
    """A page of the handbook, and the front shell as it will look."""
    page.goto("/handbook/step/shell")
    page.wait_for_load_state("networkidle")
    keep("handbook")
    page.goto("/documents/dusk-front-shell")
    page.wait_for_selector("html[data-ready]", state="attached")
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    page.evaluate("bench.setMode('finished')")
    page.locator('[data-line="art"]').scroll_into_view_if_needed()
    page.evaluate("atRest()")
    keep("finished")


def _sketched(page: Page) -> None:
    """The drawing sheet over the shell: a finger scoop being sized, with one freedom left."""
    page.goto("/documents/dusk-back-shell")
    page.wait_for_selector("html[data-ready]", state="attached")
    before = page.evaluate("[...document.querySelectorAll('.step')].map(l => l.dataset.line)")
    scoop = {"on": {"plane": "top"}, "draw": [], "name": "Finger scoop"}
    page.evaluate("edit => bench.edit(edit)", {"op": "add", "type": "sketch", "values": scoop})
    page.wait_for_function("n => document.querySelectorAll('.step').length > n", arg=len(before))
    step = next(s for s in page.evaluate("[...document.querySelectorAll('.step')].map(l => l.dataset.line)") if s not in before)
    page.evaluate("step => bench.draw(step)", step)
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.evaluate("atRest()")
    page.evaluate("{ const s = bench.sketcher; s.drawing.unit = 0.17; s.drawing.centre = [4, 0]; s.redraw(); }")
    box = page.locator("#drawing").bounding_box() or {"x": 0, "y": 0}

    def at(x: float, y: float) -> tuple[float, float]:
        px, py = page.evaluate("p => bench.sketcher.drawing.px(p)", [x, y])
        return box["x"] + px, box["y"] + py

    def click(*places: tuple[float, float]) -> None:
        for place in places:
            page.mouse.move(*at(*place), steps=3)
            page.evaluate("atRest()")
            page.mouse.click(*at(*place))
            page.evaluate("atRest()")

    page.keyboard.press("6")
    click((-18, -8), (18, -8), (0, -1))
    page.keyboard.press("Escape")
    page.keyboard.press("7")
    click((-18, -8), (18, -8), (0, -24))
    page.keyboard.type("36")
    page.keyboard.press("Enter")
    page.evaluate("atRest()")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("0")
    click((0, -1))
    page.evaluate("atRest()")


def _notched(page: Page) -> None:
    """A bevel on the rim, and then a notch, put before it, that cuts the picked edge in two."""
    edge = {"edge": ["ext.side[f1_L1]", "ext.start"]}
    notch = {
        "on": {"plane": "top"},
        "draw": [{"kind": "rectangle", "width": "14", "height": "12", "y": "-36"}],
        "name": "Notch",
    }
    edits = [
        {"op": "skip", "step": "grv"},
        {"op": "skip", "step": "mrk"},
        {"op": "add", "type": "chamfer", "values": {"edges": [edge], "distance": "0.4 mm"}},
        {"op": "add", "type": "sketch", "after": "shl", "values": notch},
    ]
    for edit in edits:
        page.evaluate("edit => bench.edit(edit)", edit)
    page.get_by_text("14").first.wait_for(state="attached")
    page.evaluate("atRest()")
    sketch = page.evaluate("[...document.querySelectorAll('.step')].map(l => l.dataset.line)[5]")
    cut = {"profile": {"sketch": sketch}, "distance": "6 mm", "direction": "down", "result": "cut", "name": "Notch"}
    page.evaluate("edit => bench.edit(edit)", {"op": "add", "type": "extrude", "after": sketch, "values": cut})
    page.locator('[data-flag="split"]').wait_for(state="attached")


if __name__ == "__main__":
    raise SystemExit(main())
