"""A tool made in Chromium from the demo's front shell: one slide, four places, runners, pins and ejectors, handed off as files."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page

from supplecast.kernel import files, measure
from supplecast.kernel.facets import read_3mf
from tests.test_end_to_end import Hands, address, page

__all__ = ["address", "page"]


def line(page: Page, step: str) -> str:
    return page.locator(f'[data-line="{step}"]').inner_text()


def test_from_the_front_shell_to_a_tool_with_four_places(page: Page, tmp_path: Path) -> None:
    page.set_default_timeout(150_000)
    hands = Hands(page)
    page.goto("/")
    page.get_by_role("button", name="demo project").first.click()
    page.get_by_role("button", name="New tool").first.click()
    hands.ready()
    link = hands.add("link")
    hands.after(lambda: page.locator(f'select[data-step="{link}"][data-field="part"]').select_option(label="Front shell"))
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
    assert "core side, 4 slides, cavity side" in line(page, check)

    # The gauges judge the tool, and say where their figures come from.
    page.wait_for_function("() => bench.strip.length === 6 && !bench.judged.old")
    assert page.locator('[data-gauge="opens"]').inner_text().split("\n")[1] == "yes"
    page.locator('[data-gauge="steel"]').click()
    page.get_by_role("button", name="by deflection").click()
    page.get_by_text("Timoshenko").wait_for()
    page.keyboard.press("Escape")

    # Bodies alike are one line of the list; the stroke plays the opening in order.
    assert page.get_by_role("button", name="Cavity insert", exact=True).count() >= 1
    page.locator("#play-stroke").click()
    page.wait_for_function("() => Number(bench.stroke) === 160")
    slide = page.evaluate("(() => { const b = [...bench.viewer.bodies.values()].find(e => e.body.role === 'slide'); return b.group.position.length(); })()")
    assert slide == pytest.approx(0.4 * 0.8 * 160)

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
    bodies = dict(files.read_step(downloaded["step"]))
    named = {*(f"{kind} insert {k}" for kind in ("Cavity", "Core") for k in range(1, 5)), "Core plate", "Cavity plate", "Ejectors"}
    assert named <= set(bodies) and sum("Side opening" in name or "Slide" in name for name in bodies) == 4
    assert measure.volume(bodies["Cavity insert 1"]) == pytest.approx(measure.volume(bodies["Cavity insert 2"]), rel=1e-3)
    assert downloaded["step"].count(b"COLOUR_RGB") >= 6
    meshes = {name: (points, triangles) for name, points, triangles in read_3mf(downloaded["3mf"])}
    assert named <= set(meshes)
