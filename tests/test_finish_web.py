"""Finishes and prints under the hand, in Chromium: a picture round a can, a lid with a window, a part in two colours."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from playwright.sync_api import Page

from tests.referee.browser import Shop
from tests.referee.papers import BAT, quarters

FIGURES = "[...bench.viewer.bodies.values()]"
PRINTS = f"{FIGURES}.flatMap((f) => f.prints.map((p) => [p.visible, p.geometry.getAttribute('uv').count > 0]))"
COLOURS = "[...bench.viewer.bodies.values()].map((f) => f.materials.map((m) => m.color.getHexString().toUpperCase()))"
FILE = '[data-line="{}"] input[type=file]'


@pytest.fixture
def shop(page: Page) -> Shop:
    return Shop(page)


def _pixel(page: Page, x: float, y: float) -> tuple[int, ...]:
    """What is seen at a place of the window."""
    shot = Image.open(io.BytesIO(page.screenshot())).convert("RGB")
    return tuple(shot.getpixel((round(x), round(y))))  # type: ignore[arg-type]


def _look_from(shop: Shop, side: str) -> tuple[float, float]:
    """Look from a side with nothing in the hand; gives the middle of the view."""
    shop.page.keyboard.press("Escape")
    shop.page.evaluate("side => { bench.handleStep(null); bench.viewer.look(side); }", side)
    shop.page.evaluate("atRest()")
    box = shop.page.locator("#view canvas").bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def _body(shop: Shop, word: str, distance: str, **sizes: str) -> str:
    shop.begin("Finishes")
    shop.figure(word, **sizes)
    made = shop.add("extrude")
    shop.type(made, "distance", distance)
    return made


def test_a_can_gets_a_picture_round_it_that_follows_it(shop: Shop, tmp_path: Path) -> None:
    page = shop.page
    can = _body(shop, "circle", "60", diameter="40")
    finish = shop.add("finish")
    shop.settle()
    shop.choose(finish, "kind", "metal")
    shop.type(finish, "colour", "#C0C4C8")
    assert (
        page.evaluate(COLOURS) == [["C0C4C8"]]
        and page.locator(f'input[data-step="{finish}"][data-field="gloss"]').input_value() == "70 %"
    )
    middle = _look_from(shop, "front")
    page.mouse.click(*middle)
    art = shop.add("printed")
    shop.settle()
    assert page.evaluate(PRINTS) == [[True, True]] and "check card" in page.locator(f'[data-line="{art}"]').inner_text()
    page.locator(FILE.format(art)).set_input_files({"name": "four.png", "mimeType": "image/png", "buffer": quarters()})
    shop.settle()
    # Where it was clicked is its middle: red to the left above it, green to the right, blue below; 20 mm wide it is 10 high.
    _look_from(shop, "front")
    near = 3 / page.evaluate("bench.viewer.eye.unit")
    red, green, blue, bare = (
        _pixel(page, middle[0] + dx * near, middle[1] + dy * near / 1.5) for dy in (-1, 1) for dx in (-1, 1)
    )
    assert red[0] > 1.5 * red[1] and green[1] > 1.5 * green[0] and blue[2] > 1.5 * blue[0]
    assert max(bare) - min(bare) < 40  # nothing is printed there: the metal is seen
    shop.choose(art, "lies", "once round")
    assert any("125.664 × 62.832 mm" in note for note in page.evaluate("bench.result.steps.at(-1).notes"))
    shop.open(art)
    page.locator(f'[data-line="{art}"] [data-set="null"]').click()
    shop.settle()
    shop.type(page.evaluate("bench.result.steps[0].id"), "figures.f1.diameter", "50")
    assert page.evaluate("bench.result.ok") and any(
        "157.08 × 78.54 mm" in n for n in page.evaluate("bench.result.steps.at(-1).notes")
    )
    assert page.evaluate(PRINTS) == [[True, True]] and page.evaluate(COLOURS) == [["C0C4C8"]]
    # Turned and stretched it is a label again; what is no picture is told and the last one stays.
    shop.choose(art, "lies", "as a label")
    shop.choose(art, "ratio", "stretched to")
    shop.type(art, "height", "24")
    shop.type(art, "turn", "45 deg")
    assert any("20 × 24 mm" in note for note in page.evaluate("bench.result.steps.at(-1).notes"))
    assert can and page.evaluate("bench.result.bodies[0].prints.length") == 1


def test_a_print_is_put_by_a_click_dragged_and_brought_back(shop: Shop) -> None:
    page = shop.page
    box = _body(shop, "rectangle", "10", width="60", height="40")
    middle = _look_from(shop, "top")
    unit = page.evaluate("bench.viewer.eye.unit")
    page.mouse.click(*middle)
    art = shop.add("printed")
    shop.settle()

    def held(name: str) -> Any:
        found = page.evaluate("() => fetch(`/api/documents/${bench.id}`).then((answer) => answer.json())")["document"]["steps"][
            -1
        ]
        return found.get(name)

    assert held("spot") == pytest.approx([0, 0, 10], abs=0.2) and held("type") == "printed art"
    page.locator(f'[data-line="{art}"] [data-put]').click()
    page.mouse.click(middle[0] + 10 / unit, middle[1] - 5 / unit)
    shop.settle()
    assert held("spot") == pytest.approx([10, 5, 10], abs=0.3)
    page.locator(f'input[data-step="{art}"][data-field="x"]').focus()  # while it is worked on it has handles
    page.wait_for_function("() => bench.viewer.handles.list.some((handle) => handle.field === 'x')")
    knob = page.locator(".tag.is-grip").nth(page.evaluate("bench.viewer.handles.list.findIndex((h) => h.field === 'x')"))
    at = knob.bounding_box()
    assert at
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    # No trial comes back: the print goes with the hand by itself.
    page.evaluate("() => { window.kept = bench.preview; bench.preview = async () => {}; }")
    page.mouse.move(at["x"] + at["width"] / 2 - 8 / unit, at["y"] + at["height"] / 2, steps=6)
    shifted = page.evaluate("[...bench.viewer.bodies.values()][0].prints[0].position.x")
    page.evaluate("() => { bench.preview = window.kept; }")
    page.mouse.up()
    shop.settle()
    assert float(held("x").split()[0]) == pytest.approx(-8, abs=0.6) == shifted
    page.keyboard.press("Escape")
    page.locator(f'[data-line="{art}"] [data-open]').click()
    page.locator(f'[data-line="{art}"] [data-set="null"]').click()
    shop.settle()
    assert held("spot") is None and (held("x") or "0") == "0" and box


def test_a_lid_is_clear_with_a_frosted_window_and_a_part_has_two_colours(shop: Shop) -> None:
    page = shop.page
    made = _body(shop, "rectangle", "8", width="60", height="40")
    finish = shop.add("finish")
    shop.settle()
    shop.choose(finish, "kind", "clear")
    middle = _look_from(shop, "top")
    page.mouse.click(*middle)
    window = shop.add("finish")
    shop.settle()
    shop.choose(window, "kind", "frosted")
    shop.type(window, "colour", "#3377AA")
    assert page.evaluate(COLOURS)[0][1] != page.evaluate(COLOURS)[0][0]
    through = (
        "[...bench.viewer.bodies.values()].map((f) => f.materials.map((m) => [m.transparent, Math.round(m.opacity * 100)]))"
    )
    assert page.evaluate(through) == [[[True, 26], [True, 62]]]
    assert page.evaluate("[...bench.viewer.bodies.values()][0].geometry.faces.groups.length") >= 2
    shop.choose(finish, "kind", "solid")
    shop.choose(window, "kind", "solid")
    # One of the colours near to resins, with a click; it is what the list of bodies says too.
    shop.open(finish)
    page.locator(f'[data-line="{finish}"] [aria-label="moss"]').click()
    shop.settle()
    assert page.evaluate(COLOURS) == [["6F8F3E", "3377AA"]]
    x, y = middle
    page.evaluate("bench.setMode('shaded')")
    page.evaluate("atRest()")
    top = _pixel(page, x + 8, y + 8)
    assert top[2] > 1.3 * top[0]
    # Finished it is lit by lamps, in three backgrounds and in depth; picks and maps go before.
    page.evaluate("bench.setMode('finished')")
    page.evaluate("atRest()")
    kind = "[...bench.viewer.bodies.values()].map((f) => f.mesh.material.map((m) => m.type))"
    assert page.evaluate(kind) == [["MeshPhysicalMaterial"] * 2]
    lit = _pixel(page, x + 8, y + 8)
    assert lit[2] > 1.3 * lit[0] and sum(lit) > sum(top)
    page.get_by_role("button", name="dusk").click()
    page.get_by_role("button", name="in depth").click()
    page.evaluate("atRest()")
    assert sum(_pixel(page, x + 400, y)) < 240
    assert page.evaluate("bench.viewer.eye.camera.isPerspectiveCamera")
    page.locator('[data-gauge="wall"]').click()
    page.wait_for_function("() => bench.gauges.paint.on")
    page.evaluate("atRest()")
    assert page.evaluate("bench.viewer.style") == "shaded" and not page.evaluate("bench.viewer.eye.inDepth")
    page.keyboard.press("Escape")
    page.evaluate("atRest()")
    assert page.evaluate("bench.viewer.style") == "finished" and made


def test_an_emblem_and_a_picture_to_take_away(shop: Shop) -> None:
    page = shop.page
    _body(shop, "rectangle", "6", width="60", height="40")
    middle = _look_from(shop, "top")
    page.mouse.click(*middle)
    step = shop.add("lettering")
    shop.settle()
    shop.choose(step, "what", "a drawing")
    assert page.evaluate("bench.result.ok")
    page.locator(FILE.format(step)).set_input_files({"name": "bat.svg", "mimeType": "image/svg+xml", "buffer": BAT})
    shop.settle()
    shop.type(step, "height", "12")
    assert shop.volume() > 60 * 40 * 6 + 20
    page.get_by_role("link", name="Handoff").click()
    shop.ready()
    page.get_by_label("Behind it").select_option("paper")
    page.get_by_role("button", name="Make the picture").click()
    page.wait_for_selector("#picture img")
    with page.expect_download() as taken:
        page.get_by_role("link", name="picture.png").click()
    with Image.open(Path(taken.value.path())) as picture:
        assert picture.size == (1280, 800) and min(picture.convert("RGB").getpixel((3, 3))) > 230  # type: ignore[arg-type]


def test_what_is_not_molded_says_what_it_is_and_is_judged_on_wish(shop: Shop) -> None:
    page = shop.page
    _body(shop, "rectangle", "6", width="60", height="40")
    page.wait_for_function("() => bench.strip.length > 3")
    page.locator('[data-document-field="resin"]').select_option("Steel")
    page.wait_for_function("() => bench.strip.length === 3")
    assert page.locator("#strip").inner_text().count("not molded") == 1
    assert page.evaluate("bench.result.bodies[0].mass") == pytest.approx(113.04)
    page.get_by_role("button", name="as if molded").click()
    page.wait_for_function("() => bench.strip.length > 3 && !bench.judged.old")
    page.get_by_role("button", name="not molded").click()
    page.wait_for_function("() => bench.strip.length === 3 && !bench.judged.old")
    page.goto("/resins?like=")
    page.get_by_label("name of the grade").fill("Brass rod")
    page.get_by_label("density").fill("8.4")
    page.get_by_label("looks").select_option("metal")
    page.get_by_role("button", name="Keep the grade").click()
    page.wait_for_url("**/resins")
    assert "Brass rod" in page.locator("table").inner_text()
