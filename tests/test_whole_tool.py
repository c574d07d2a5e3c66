"""A box with a window taken to a whole tool with two places, by hand in Chromium: base, drives, ejection, coolant, costs, its
parts list; and what a thicker wall means in its steel.
"""

from __future__ import annotations

import csv
from pathlib import Path

from playwright.sync_api import Page

from tests.conftest import STEPS, extrude, part, rectangle
from tests.referee.browser import Hands
from tests.test_toolroom import line, new_tool, opened

BOX: STEPS = [
    rectangle("s", "70", "50"),
    extrude("e", "s", "24", direction="down", draft="1.5"),
    {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "6"},
    {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.start"}]},
    {"id": "w", "type": "sketch", "on": {"plane": "front"},
     "draw": [{"kind": "rectangle", "width": "14", "height": "8", "x": "0", "y": "-12"}]},
    {"id": "wx", "type": "extrude", "profile": {"sketch": "w"}, "distance": "40", "result": "cut"},
]  # fmt: skip


def test_a_box_with_a_window_becomes_a_whole_tool(page: Page, tmp_path: Path) -> None:
    page.set_default_timeout(150_000)
    hands = Hands(page)
    opened(page, "Boxes", tmp_path, part(BOX, name="Box", id="untitled").to_json())
    hands.ready()
    shown = page.url
    new_tool(page, "Boxes")
    hands.ready()
    tool = page.url
    acts = 2  # a project, a tool
    made = {}

    def add(word: str) -> str:
        nonlocal acts
        acts += 1
        return hands.add(word)

    for word in ("link", "scale for", "parting line", "block"):
        made[word] = add(word)
    hands.type(made["block"], "around", "34 mm")
    add("parting surface")
    halves = add("halves")
    hands.choose(halves, "undercuts", "left to side openings")
    side = add("side opening")
    inserts = add("inserts")
    hands.type(inserts, "rows", "1")
    acts += 3
    for word in ("runners", "mold base", "slide drive", "ejectors", "cooling", "opening check", "costing"):
        made[word] = add(word)
    hands.settle()
    assert page.evaluate("bench.result.ok"), page.locator("#sheet").inner_text()
    assert acts <= 30
    assert "on the core half" in line(page, side) and "in stock sizes" in line(page, inserts)
    assert "high in all" in line(page, made["mold base"]) and "sprue bush Ø" in line(page, made["mold base"])
    assert "draw their slides" in line(page, made["slide drive"])
    assert "MPa under its pins" in line(page, made["ejectors"])
    assert "l/min" in line(page, made["cooling"]) and "The tool costs" in line(page, made["costing"])
    assert "core side with the parts, 2 slides on it, ejectors" in line(page, made["opening check"])
    page.wait_for_function("() => bench.strip.length === 7 && !bench.judged.old")
    assert "with press and tool" in page.locator('[data-gauge="price"]').inner_text()

    hands.after(lambda: page.get_by_role("button", name="hold them where they are").click())
    hands.settle()
    assert page.evaluate("bench.result.ok") and line(page, made["ejectors"]).count("held at") == 4

    # The bodies of the base are listed under the sides they move with, alike ones as one line; the handoff keeps them together.
    page.get_by_role("button", name="Guide pillar", exact=True).first.wait_for()
    for side_of in ("Fixed side", "Moving side", "Ejection"):
        page.get_by_text(side_of, exact=True).first.wait_for()

    # The report is the set-up sheet: section, parts list, and what steps say.
    page.goto(f"{tool.split('?')[0]}/report")
    page.locator(".sheet-page").wait_for()
    rows = [row.split("\t") for row in page.locator(".parts-list tbody tr").all_inner_texts()]
    counted = {row[2]: int(row[1]) for row in rows}
    assert counted["Guide pillar"] == counted["Guide bush"] == counted["Return pin"] == 4
    assert counted["Cavity insert"] == counted["Core insert"] == counted["Angle pin"] == 2 and counted["Sprue bush"] == 1
    assert all(row[3] and row[4] for row in rows)
    drawn = page.locator(".stack text").all_text_contents()
    assert len(drawn) > 12 and {int(number) for number in drawn} <= {int(row[0]) for row in rows}
    with page.expect_download() as download:
        page.locator("#parts-csv").click()
    table = list(csv.reader(Path(download.value.path()).read_text("utf-8-sig").splitlines()))
    assert [row[:3] for row in table[1:]] == [row[:3] for row in rows] and len(table[0]) == 6
    with page.expect_download() as download:
        page.locator("#pdf").click()
    assert Path(download.value.path()).read_bytes().startswith(b"%PDF")

    # A thicker wall: the cores lose metal, nothing has to be made anew.
    page.goto(shown)
    hands.ready()
    hands.type("h", "wall", "2.4 mm")
    page.goto(tool)
    hands.ready()
    pin = "async ([step, document, n]) => bench.edit({ op: 'set', step, field: 'part', value: { document, revision: n } })"
    for revision in (1, 2):
        page.evaluate(pin, [made["link"], shown.rsplit("/", 1)[-1].split("?")[0], revision])
        hands.settle()
    page.goto(f"{tool.split('?')[0]}/compare")
    page.locator("#steel li").first.wait_for()
    safe, anew = (
        page.locator(f'#steel li[data-verdict="{verdict}"]').all_inner_texts() for verdict in ("steel-safe", "to be made anew")
    )
    assert all(any(f"Core insert {number}" in row for row in safe) for number in (1, 2)), safe
    assert not any("insert" in row for row in anew), anew
    assert "unchanged" in page.locator("#steel").inner_text()
