"""Whole jobs with bodies beside one's own, done from nothing by mouse and keys, and counted: nests, an assembly, a mesh."""

from __future__ import annotations

import math
from collections.abc import Iterator

import pytest
import trimesh
from playwright.sync_api import Page

from tests.test_jobs import Counted, begin


@pytest.fixture
def hands(page: Page) -> Iterator[Counted]:
    yield Counted(page)


def test_a_nested_bracket(hands: Counted) -> None:
    begin(hands, "Nested")
    hands.step("box")
    hands.kept("20", "20", "100")
    hands.press('a[title="All projects"]')
    with hands.page.expect_navigation():
        hands.press("section[aria-label='Nested'] button:has-text('New part')")
    hands.ready()
    hands.wanted("link")
    hands.page.wait_for_function("() => bench.result?.bodies.length === 1")
    hands.settle()
    hands.step("box")
    hands.kept("30", "30", "40")
    hands.step("subtract")
    hands.kept("0.2")
    # The beam's upright edges are rounded about by the gap: its section is that of a square and a disc.
    assert hands.volumes()[-1] == pytest.approx(40 * (30**2 - 20**2 - 80 * 0.2 - math.pi * 0.2**2), rel=1e-9)
    hands.done(17, "nested bracket")  # four of them make the beam


def test_a_battery_nested_in_a_holder_that_follows_it_and_both_in_an_assembly(hands: Counted) -> None:
    page = hands.page
    begin(hands, "Holder")
    hands.step("box")
    hands.kept("12", "30", "60")  # the battery
    _another(page, "Holder", "New part")
    hands.wanted("link")
    page.wait_for_function("() => bench.result?.bodies.length === 1")
    hands.settle()
    hands.step("box")
    hands.kept("40", "50", "20")
    hands.step("nest")
    hands.kept("0.5")
    nest = hands.ids()[-1]
    hands.choose(nest, "corners", "sharp")
    hands.choose(nest, "opening", "open along")
    hands.acts += 2
    hands.settle()
    assert hands.volumes()[-1] == pytest.approx(40 * 50 * 20 - 13 * 31 * 20, rel=1e-9)
    hands.done(17, "nested battery")  # four of them make it
    page.wait_for_selector('[data-gauge="gaps"].is-good')
    assert page.locator('[data-gauge="gaps"] .gauge-value').inner_text() == "0.5 mm"
    _another(page, "Holder", "New assembly")
    page.wait_for_selector('[data-gauge="gaps"].is-fault')  # as linked, the battery's own part lies in both of its places
    assert page.evaluate("bench.result.bodies.map((body) => body.name).length") == 3
    way = hands.step("way")
    hands.choose(way, "body", "l1")
    hands.settle()
    assert page.locator(f'[data-line="{way}"]').inner_text().count("free all the way") == 1
    page.locator("#way-share").fill("100")
    assert page.evaluate("bench.viewer.bodies.get('l1').group.position.length()") == pytest.approx(20)
    assert page.locator("#way").inner_text().count("20 mm of 20 mm") == 1
    hands.key("Escape", "Escape")
    page.wait_for_selector("#way", state="hidden")
    assert page.evaluate("bench.viewer.bodies.get('l1').group.position.length()") == 0
    page.locator("#stroke").fill("100")
    assert page.evaluate("bench.viewer.stroke") == 100
    lifted = page.evaluate("[...bench.viewer.bodies.values()].map(({ group }) => group.position.length())")
    assert max(lifted) > 10 and page.locator('[data-gauge="opens"]').count() == 0
    # The holder opened in place: the battery stands in it, and is told of as a neighbour.
    page.locator("#things .swatch[title^='Name']").nth(1).click()
    with page.expect_navigation():
        page.locator("#things").get_by_role("button", name="open in place").locator("visible=true").click()
    page.wait_for_selector("html[data-ready]", state="attached")
    hands.settle()
    roles = page.evaluate("bench.result.bodies.map((body) => body.role)")
    assert sorted(roles) == ["linked", "neighbour", "part"]
    assert page.locator("#things").inner_text().count("neighbour") == 1
    hands.settle()
    page.wait_for_selector('[data-gauge="gaps"].is-fault')  # it lies where the linked battery does


def test_another_programs_mesh_makes_room_for_itself_and_is_held_against_what_is_built(hands: Counted) -> None:
    """A plate as triangles in inches: told as six flats; then as a mesh, held against a block and cut from it."""
    page = hands.page
    begin(hands, "Mesh")
    plate = trimesh.creation.box((2, 1, 0.5)).apply_translation((0, 0, 0.25))
    file = {"name": "plate.stl", "mimeType": "model/stl", "buffer": plate.export(file_type="stl")}
    with page.expect_response("**/imports"):
        page.set_input_files("#import", file)
    hands.settle()
    brought = hands.ids()[0]
    assert page.locator(f'[data-line="{brought}"]').inner_text().count("6 flats") == 1
    hands.choose(brought, "unit", "in")
    hands.choose(brought, "taken", "as mesh")
    hands.settle()
    assert page.evaluate("bench.result.bodies.map((body) => [body.role, body.solid])") == [["mesh", False]]
    assert page.evaluate("bench.result.bodies[0].volume") == pytest.approx(25.4**3, rel=1e-6)
    hands.step("box")
    hands.kept("60", "30", "12.9")
    page.wait_for_selector('[data-gauge="mesh"]')
    hands.step("subtract")  # it takes the mesh for its tool
    hands.kept("1")
    assert page.locator(f'[data-line="{hands.ids()[-1]}"]').inner_text().count("Of flats about plate") == 1
    least, most = (60 * 30 * 12.9 - (50.8 + 2 * off) * (25.4 + 2 * off) * 12.9 for off in (1.25, 1.0))
    assert least < hands.volumes()[-1] < most
    hands.done(12, "mesh")


def _another(page: Page, project: str, button: str) -> None:
    """Another document in the project, begun from the list of all."""
    page.locator('a[title="All projects"]').click()
    with page.expect_navigation():
        page.get_by_role("region", name=project).get_by_role("button", name=button).click()
    page.wait_for_selector("html[data-ready]", state="attached")
