"""A designer at work, in Chromium: from an empty project to halves read back from the downloaded files."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import trimesh
from playwright.sync_api import Page

from supplecast.kernel import measure, step_files
from tests.conftest import extrude, part, rectangle
from tests.referee.browser import FLAT_TOP, UPRIGHT, Hands, served


@pytest.fixture
def hasty(tmp_path: Path) -> Iterator[str]:
    """One that stops every build after two seconds."""
    yield from served(tmp_path / "data", "--deadline", "2")


NAMELESS = """all => all.filter(e => e.offsetParent && !(e.getAttribute('aria-label') || e.textContent.trim()
  || e.labels?.length || e.title)).map(e => e.outerHTML)"""


def test_from_an_empty_project_to_downloaded_halves(page: Page, tmp_path: Path) -> None:
    hands = Hands(page)
    page.goto("/")
    page.get_by_text("No project yet").wait_for()
    page.get_by_label("Name of a new project").fill("Trial")
    page.get_by_role("button", name="New project").click()
    page.get_by_role("button", name="New part").click()
    hands.ready()

    sketch = hands.sketch("rectangle")
    hands.type(sketch, "figures.f1.width", "60 mm")
    hands.type(sketch, "figures.f1.height", "40 mm")
    raised = hands.add("extrude")
    hands.type(raised, "distance", "20 mm")
    hands.choose(raised, "direction", "down")
    hands.type(raised, "draft", "2")
    hands.settle()

    # Round the uprights: pick one edge in the view, take the rule that is offered.
    rounded = hands.add("fillet")
    hands.picking()
    upright = hands.find(raised, "edge", 12, UPRIGHT)
    page.mouse.click(upright["x"], upright["y"])
    page.get_by_role("button", name="uprights of step 2").click()
    page.locator("#pickbar").get_by_text("4 picked").wait_for()
    hands.after(lambda: page.locator("[data-done]").click())
    hands.type(rounded, "radius", "6 mm")

    # Hollow it: pick the top face first, then add the step that uses it.
    page.evaluate("document.activeElement.blur()")
    top = hands.find(raised, "face", 14, FLAT_TOP)
    page.mouse.click(top["x"], top["y"])
    page.get_by_text("1 face; / adds").wait_for()
    shelled = hands.add("shell")
    hands.settle()
    assert page.evaluate("bench.result.ok")

    # A wall that does not fit: the last good shape stays, the message says so, undo brings the number back.
    good = page.evaluate("bench.result.bodies[0].volume")
    hands.type(shelled, "wall", "30 mm")
    page.locator(f'[data-line="{shelled}"][data-status="failed"]').wait_for()
    assert "does not fit" in page.locator(f'[data-line="{shelled}"] [role="alert"]').inner_text()
    assert page.evaluate("bench.result.bodies[0].stale")
    page.evaluate("document.activeElement.blur()")
    hands.after(lambda: page.keyboard.press("Control+z"))
    hands.settle()
    assert page.evaluate("bench.result.bodies[0].volume") == pytest.approx(good)
    page.reload()
    hands.ready()
    assert page.get_by_role("button", name="redo").is_enabled()
    name = page.get_by_label("Name of this document")
    name.fill("Trial tray")
    hands.after(lambda: name.press("Enter"))
    hands.settle()

    # The mold.
    page.get_by_role("link", name="Trial").click()
    page.get_by_role("button", name="New tool").click()
    hands.ready()
    hands.add("link")
    assert page.locator('select[data-field="part"]').inner_text().strip() == "Trial tray"
    hands.add("scale for")
    block = hands.add("block")
    hands.type(block, "around", "20 mm")
    hands.add("subtract part")
    split = hands.add("split")
    hands.settle()
    assert page.locator(f'[data-line="{split}"]').get_attribute("data-status") == "ok", page.locator("#sheet").inner_text()
    pins = hands.add("register")
    hands.type(pins, "inset", "9 mm")
    hands.add("feed")
    hands.add("trial")
    hands.settle()
    assert page.evaluate("bench.result.ok")
    page.keyboard.press("Escape")
    page.locator("#stroke").fill("60")
    page.keyboard.press("s")
    page.keyboard.press("v")

    page.get_by_role("link", name="Handoff").click()
    page.wait_for_selector("html[data-ready]", state="attached")
    assert page.locator("tbody tr", has_text="Core half").get_by_role("checkbox").is_checked()
    downloaded: dict[str, bytes] = {}
    for format, label in (("step", "3-bodies"), ("stl", "core-half")):
        if format == "stl":
            for other in ("Cavity half", "Trial shot"):
                page.locator("tbody tr", has_text=other).get_by_role("checkbox").uncheck()
        page.locator(f'input[value="{format}"]').check()
        page.get_by_role("button", name="Write").click()
        link = page.get_by_role("link", name=f".{format}").first
        link.wait_for()
        with page.expect_download() as download:
            link.click()
        target = tmp_path / download.value.suggested_filename
        download.value.save_as(target)
        downloaded[format] = target.read_bytes()
        assert target.name == f"new-tool-{label}.{format}"

    found = {one.name: one.solid for one in step_files.read_step(downloaded["step"])}
    assert set(found) == {"Core half", "Cavity half", "Trial shot"}
    core, cavity, shot = (found[name] for name in ("Core half", "Cavity half", "Trial shot"))
    width = 60 / (1 - 0.0055) + 40
    assert measure.box(core).size[0] == pytest.approx(width, abs=2e-3)
    assert measure.box(cavity).high[2] == pytest.approx(0, abs=1e-6)
    assert measure.box(shot).size[0] == pytest.approx(60 / (1 - 0.0055), abs=1e-6)
    read = trimesh.load(io.BytesIO(downloaded["stl"]), file_type="stl")
    assert read.is_watertight and read.volume == pytest.approx(measure.volume(core), rel=1e-3)


def test_a_stale_tab_is_told_and_loses_nothing(page: Page) -> None:
    hands = Hands(page)
    hands.begin("Second")
    sketch = hands.sketch("rectangle")
    hands.add("extrude")
    address = page.url
    other = page.context.new_page()
    other.goto(address)
    other.wait_for_selector("html[data-ready]", state="attached")
    other.evaluate("atRest()")  # else its sheet may be laid anew between typing and Enter
    hands.type(sketch, "figures.f1.width", "70 mm")
    # A stale tab is told, loses nothing of what it shows, and can reload.
    control = other.locator(f'input[data-step="{sketch}"][data-field="figures.f1.height"]')
    control.fill("33 mm")
    control.press("Enter")
    other.get_by_text("changed elsewhere").wait_for()
    other.get_by_role("button", name="Reload").click()
    other.wait_for_selector('input[data-field="figures.f1.width"][value="70 mm"]')
    other.close()


def test_keyboard_alone_reaches_everything(page: Page) -> None:
    hands = Hands(page)
    page.goto("/")
    page.get_by_label("Name of a new project").fill("Keys")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="New part").last.press("Enter")
    hands.ready()
    page.keyboard.press("/")
    page.keyboard.type("sk")
    page.keyboard.press("Enter")
    page.wait_for_function("() => bench.placing")
    hands.after(lambda: page.keyboard.press("Enter"))  # the top plane
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.keyboard.press("2")
    focused = "() => document.activeElement?.getAttribute('aria-label')"
    for _ in range(60):
        if page.evaluate(focused) == "at":
            break
        page.keyboard.press("Tab")
    for place in ("-22, -15", "22, 15"):
        page.keyboard.type(place)
        page.keyboard.press("Enter")
        page.wait_for_function("p => bench.sketcher.tool.field('at') === '' && !bench.sketcher.aiming", arg=place)
    page.wait_for_function("() => bench.sk.regionWords === '1 of 1'")
    assert page.evaluate("bench.sketcher.scene.area") == pytest.approx(44 * 30)
    assert page.eval_on_selector_all("input, select, button", NAMELESS) == []
    page.keyboard.press("Escape")
    hands.after(lambda: page.keyboard.press("Enter"))
    assert page.eval_on_selector_all("input, select, button", NAMELESS) == []


SLOT = {"kind": "rectangle", "width": "2.4", "height": "2", "radius": "0.8"}
HOLES = [{**SLOT, "x": f"{4 * i}", "y": f"{4 * k}"} for i in range(10) for k in range(10)]
LONG = [
    rectangle("s", "90", "90"),
    extrude("e", "s", "20"),
    {"id": "hs", "type": "sketch", "draw": HOLES},
    extrude("cut", "hs", "30", result="cut", extent="through all"),
    {"id": "shl", "type": "shell", "wall": "0.5", "open": [{"face": "e.start"}]},
    rectangle("s2", "9", "9", x="80"),
    extrude("e2", "s2", "5"),
]


def bring(page: Page, tmp_path: Path, name: str, steps: list[dict[str, Any]], address: str = "") -> None:
    """Import a document into a project of its own."""
    path = tmp_path / "brought.supple.json"
    path.write_text(part(steps, name=name, id="untitled").to_json())
    page.goto(f"{address}/")
    page.get_by_label("Name of a new project").fill(name)
    page.get_by_role("button", name="New project").click()
    section = page.locator("section", has=page.get_by_role("heading", name=name, exact=True))
    with page.expect_navigation():
        section.locator("input[type=file]").set_input_files(path)


def test_a_step_that_takes_too_long_is_stopped_and_the_page_lives_on(page: Page, tmp_path: Path, hasty: str) -> None:
    hands = Hands(page)
    bring(page, tmp_path, "Long", LONG, hasty)
    page.get_by_text("took too long and was stopped").first.wait_for()
    line = page.locator('[data-status="failed"]', has_text="took too long").first
    line.wait_for()
    step = str(line.get_attribute("data-line"))
    hands.settle()
    statuses = {s["id"]: s["status"] for s in page.evaluate("bench.result.steps")}
    assert statuses["e2"] == "ok" and statuses[step] == "failed" and step in ("hs", "cut", "shl")
    hands.type("e2", "distance", "7")  # the sheet answers as ever
    page.wait_for_function("() => Math.abs(bench.result.bodies.find(b => b.id === 'e2').high[2] - 7) < 1e-6")
    hands.settle()  # the sheet is fetched once more, and the gauges: the server must not go before
    page.wait_for_function("() => !bench.judged.old || bench.judged.why")


def test_a_reopened_pick_is_unpicked_and_a_rule_that_starts_from_an_edge_holds(page: Page, tmp_path: Path) -> None:
    hands = Hands(page)
    steps = [rectangle("s", "40", "20"), extrude("ext", "s", "10"), {"id": "upr", "type": "fillet", "radius": "4",
             "edges": [{"rule": "uprights", "of": "ext"}]}]  # fmt: skip
    bring(page, tmp_path, "Picks", steps)
    hands.ready()
    shell = hands.add("shell")
    hands.settle()
    hands.type(shell, "wall", "1")

    def pick(step: str, field: str, kind: str, count: int, test: str, after: str) -> None:
        page.locator(f'[data-step="{step}"][data-field="{field}"]').click()
        page.evaluate("atRest()")
        spot = hands.find("ext", kind, count, test)
        page.mouse.click(spot["x"], spot["y"])
        page.locator("#pickbar").get_by_text(after).wait_for()

    def done() -> None:
        hands.after(lambda: page.locator("[data-done]").click())
        hands.settle()

    pick(shell, "open", "face", 10, FLAT_TOP, "1 picked")
    done()
    thin = page.evaluate("bench.result.bodies[0].volume")
    pick(shell, "open", "face", 10, FLAT_TOP, "none picked yet")
    done()
    assert page.evaluate("bench.result.bodies[0].volume") > thin + 100
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Control+z")
    hands.settle()
    page.wait_for_function("v => Math.abs(bench.result.bodies[0].volume - v) < 1e-6", arg=thin)

    # The rim's outer loop by the smooth chain through one of its edges.
    rounds = hands.add("fillet")
    hands.settle()
    hands.type(rounds, "radius", "0.3")
    high = """([b, e]) => { const { read } = bench.viewer.bodies.get(b).geometry; const i = (e ? read.edgeEnds[e - 1] : 0) * 3;
      return read.segments[i + 2] > 9.99 && read.segments[i + 5] > 9.99 && Math.abs(read.segments[i]) < 20; }"""
    pick(rounds, "edges", "edge", 40, high, "1 picked")
    chain = page.locator("#pickbar").get_by_role("button", name="8 smooth chain")
    chain.click()
    page.locator("#pickbar").get_by_text("8 picked").wait_for()
    done()
    assert page.evaluate("bench.result.ok"), page.evaluate("bench.result.steps.map((s) => s.words)")


def test_an_empty_part_takes_a_unit_at_once_and_a_question_passed_over_changes_nothing(page: Page) -> None:
    hands = Hands(page)
    hands.begin("Units")
    unit = page.locator("[data-unit-field]")
    with page.expect_navigation():
        unit.select_option("in")
    hands.ready()
    assert unit.input_value() == "in" and not page.locator("#unit-ask").is_visible()
    hands.type(hands.sketch("circle"), "figures.f1.diameter", "3")
    body = hands.add("extrude")
    hands.type(body, "distance", "4")
    assert page.evaluate("bench.result.bodies[0].high[2]") == pytest.approx(4 * 25.4)
    unit.select_option("mm")
    page.locator("#unit-ask").get_by_text("mm").first.wait_for()
    hands.add("plane")
    hands.settle()
    page.locator("#unit-ask").wait_for(state="hidden")
    assert unit.input_value() == "in"
    assert page.evaluate("document.getElementById('bench').dataset.unit") == "in"


def test_a_lost_pick_is_repaired_with_one_click_and_the_past_comes_back(page: Page, tmp_path: Path) -> None:
    hands = Hands(page)
    edge = {"edge": ["ext.side[f1_L1]", "ext.start"]}
    steps = [rectangle("s", "40", "20"), extrude("ext", "s", "10"), rectangle("cs", "5", "30")]
    steps += [extrude("cc", "cs", "2", result="cut"), {"id": "chm", "type": "chamfer", "edges": [edge], "distance": "0.5"}]
    bring(page, tmp_path, "Repairs", steps)
    hands.ready()
    flag = page.locator('[data-line="chm"] [data-flag="split"]')
    flag.wait_for()
    assert page.locator('[data-line="chm"] .is-flagged').count() == 1
    hands.after(lambda: flag.get_by_role("button", name="show").first.click())
    page.get_by_text("the model as it stood before this step").wait_for()
    hands.after(lambda: page.keyboard.press("Escape"))
    hands.after(lambda: flag.get_by_role("button", name="take all 2 pieces").click())
    flag.wait_for(state="detached")

    # Where may the chamfer stand? Not before the extrusion; before the slot it may.
    page.locator('[data-line="cc"] [data-open]').click()
    page.locator('[data-line="cc"] [data-do="move"]').click()
    page.get_by_text("cannot stand before it").first.wait_for()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Escape")
    assert page.locator(".place").count() == 0

    # A distance that does not fit: what would fit is found, and taken with a click.
    hands.type("chm", "distance", "50")
    hands.after(lambda: page.locator("footer").get_by_role("button", name="Use").click())
    hands.settle()
    assert page.evaluate("bench.result.ok")

    page.get_by_role("link", name="History").click()
    hands.ready()
    first = page.locator('[data-revision="1"]')
    first.get_by_label("Milestone name of revision 1").fill("As drawn")
    first.get_by_label("Milestone name of revision 1").press("Enter")
    page.get_by_text("is “As drawn”").wait_for()
    assert first.locator("img").is_visible()
    with page.expect_navigation():
        first.get_by_role("button", name="Restore").click()
    hands.ready()
    page.locator('[data-flag="split"]').wait_for()
    assert "3" in page.get_by_role("button", name="undo").inner_text()  # what was refused and what fits are one
