"""A tool made in Chromium from the demo's front shell, with a slide and four places, to its files; and a part that moves on."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page

from supplecast.kernel import measure, step_files
from supplecast.kernel.formats.facets import read_3mf
from supplecast.web import demo
from tests.conftest import extrude, part, rectangle
from tests.referee.browser import Hands


def line(page: Page, step: str) -> str:
    return page.locator(f'[data-line="{step}"]').inner_text()


def opened(page: Page, project: str, folder: Path, text: str) -> None:
    """A new project into which a document is brought, which is then shown."""
    path = folder / f"{project}.supple.json"
    path.write_text(text)
    page.goto("/")
    page.get_by_label("Name of a new project").fill(project)
    page.get_by_role("button", name="New project").click()
    section = page.locator("section", has=page.get_by_role("heading", name=project, exact=True))
    with page.expect_navigation():
        section.locator("input[type=file]").set_input_files(path)


def new_tool(page: Page, project: str) -> None:
    page.get_by_role("link", name=project).first.click()
    section = page.locator("section", has=page.get_by_role("heading", name=project, exact=True))
    section.get_by_role("button", name="New tool").click()


def test_from_the_front_shell_to_a_tool_with_two_places(page: Page, tmp_path: Path) -> None:
    page.set_default_timeout(150_000)
    hands = Hands(page)
    front = next(d for d in demo.documents() if d.name == "Front shell")
    opened(page, "Toolroom", tmp_path, front.to_json())
    hands.ready()
    new_tool(page, "Toolroom")
    hands.ready()
    link = hands.add("link")
    assert page.locator(f'select[data-step="{link}"][data-field="part"]').inner_text().strip() == "Front shell"
    lay = hands.add("lay")
    hands.choose(lay, "by", "an edge or axis")
    hands.choose(lay, "facing", "back")
    hands.add("scale for")
    parting = hands.add("parting line")
    hands.settle()
    assert "a side opening can free it" in line(page, parting)
    block = hands.add("block")
    hands.type(block, "around", "26 mm")
    surface = hands.add("parting surface")
    hands.settle()
    assert line(page, surface).count("Shut-off") >= 3
    halves = hands.add("halves")
    hands.settle()
    refused = page.locator(f'[data-line="{halves}"][data-status="failed"]')
    refused.wait_for()
    assert "cannot be seen from either side" in line(page, halves) and refused.get_by_text("Show where").is_visible()
    hands.choose(halves, "undercuts", "left to side openings")
    side = hands.add("side opening")
    hands.settle()
    assert "Leaves along −y" in line(page, side) and "left to the side openings below" in line(page, halves)
    inserts = hands.add("inserts")
    hands.type(inserts, "rows", "1")
    hands.type(inserts, "between", "36 mm")
    runners = hands.add("runners")
    hands.settle()
    assert "balanced" in line(page, runners)
    pins = hands.add("register")
    hands.type(pins, "inset", "20 mm")
    ejectors = hands.add("ejectors")
    hands.type(ejectors, "count", "4")
    assert re.search(r"On the first part: 1 at", line(page, ejectors))
    hands.add("trial shot")
    check = hands.add("opening check")
    hands.settle()
    assert page.evaluate("bench.result.ok"), page.locator("#sheet").inner_text()
    assert "core side with the parts, 2 slides on it" in line(page, check)

    # The gauges judge the tool, and say where their figures come from.
    page.wait_for_function("() => bench.strip.length === 6 && !bench.judged.old")
    assert page.locator('[data-gauge="opens"]').inner_text().split("\n")[1] == "yes"
    page.locator('[data-gauge="steel"]').click()
    page.get_by_role("button", name="by deflection").click()
    page.get_by_text("Timoshenko").wait_for()
    page.keyboard.press("Escape")

    # The stroke plays the opening in order.
    page.locator("#play-stroke").click()
    page.wait_for_function("() => Number(bench.stroke) === 100")
    bodies = "[...bench.viewer.bodies.values()]"
    core, slide = page.evaluate(
        f"['core', 'core slide'].map((r) => {bodies}.find((b) => b.body.role === r).group.position.toArray())"
    )
    assert core[2] == slide[2] > 100 and slide[1] < -3 and core[:2] == [0, 0]  # up with the core side, and sideways

    page.get_by_role("link", name="Handoff").click()
    page.wait_for_selector("html[data-ready]", state="attached")
    downloaded: dict[str, bytes] = {}
    for format in ("step", "3mf"):
        page.locator(f'input[value="{format}"]').check()
        page.get_by_role("button", name="Write").click()
        written = page.get_by_role("link", name=f".{format}").first
        written.wait_for()
        with page.expect_download() as download:
            written.click()
        target = tmp_path / download.value.suggested_filename
        download.value.save_as(target)
        downloaded[format] = target.read_bytes()
    bodies = {one.name: one.solid for one in step_files.read_step(downloaded["step"])}
    named = {
        *(f"{kind} insert {k}" for kind in ("Cavity", "Core") for k in (1, 2)),
        "Core plate",
        "Cavity plate",
        "Ejectors",
    }
    assert named <= set(bodies) and sum("Side opening" in name or "Slide" in name for name in bodies) == 2
    assert measure.volume(bodies["Cavity insert 1"]) == pytest.approx(measure.volume(bodies["Cavity insert 2"]), rel=1e-3)
    assert downloaded["step"].count(b"COLOUR_RGB") >= 6
    meshes = {name: (points, triangles) for name, points, triangles in read_3mf(downloaded["3mf"])}
    assert named <= set(meshes)


def test_a_newer_part_is_announced_tried_and_kept_or_thrown_away(page: Page, tmp_path: Path) -> None:
    hands = Hands(page)
    steps = [
        rectangle("s", "60", "40"),
        extrude("e", "s", "15", direction="down", draft="2"),
        {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.start"}]},
    ]
    opened(page, "Followed", tmp_path, part(steps, name="Tray", id="untitled").to_json())
    hands.ready()
    shown = page.url
    new_tool(page, "Followed")
    hands.ready()
    tool = page.url
    hands.add("link")
    pinned = page.evaluate("async () => { const s = document.querySelector('[data-kind=link]'); return s.dataset.step; }")
    pin = "async ([step, document]) => bench.edit({ op: 'set', step, field: 'part', value: { document, revision: 1 } })"
    page.evaluate(pin, [pinned, shown.rsplit("/", 1)[-1].split("?")[0]])
    hands.settle()
    split = hands.add("block")
    hands.settle()
    assert split and page.get_by_text("has moved on").count() == 0
    page.goto(shown)
    hands.ready()
    hands.type("e", "distance", "18")
    page.goto(tool)
    hands.ready()
    page.get_by_text("Tray has moved on since this tool was built.").wait_for()
    assert "compare?first=1" in str(page.get_by_role("link", name="Compare first").get_attribute("href"))
    low = "() => bench.result.bodies.find((b) => b.role === 'linked').low[2]"
    before = page.evaluate(low)
    hands.after(lambda: page.get_by_role("button", name="Try it").click())
    page.get_by_text("every step builds with the newer part").wait_for()
    assert page.evaluate(low) == pytest.approx(before - 3)
    page.evaluate("document.activeElement.blur()")
    hands.after(lambda: page.keyboard.press("Escape"))
    hands.settle()
    assert page.evaluate(low) == pytest.approx(before)
    hands.after(lambda: page.get_by_role("button", name="Try it").click())
    page.get_by_text("every step builds with the newer part").wait_for()
    page.get_by_role("button", name="Keep it").click()
    page.get_by_text("Tray has moved on").wait_for(state="detached")
    hands.settle()
    assert page.evaluate(low) == pytest.approx(before - 3)
