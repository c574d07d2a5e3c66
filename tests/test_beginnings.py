"""How a new part begins: with a box, as a copy of one of the demo, or with a file that is dropped."""

from __future__ import annotations

import math

import pytest
from playwright.sync_api import Page

from supplecast.document.beginnings import box, copied
from supplecast.document.model import Document
from supplecast.errors import DocumentError
from supplecast.kernel import measure
from supplecast.web import demo
from tests.conftest import bodies, part
from tests.referee.browser import Hands
from tests.referee.desk import Desk

DROP = """(text) => {
  const held = new DataTransfer();
  held.items.add(new File([text], 'tri.stl'));
  document.getElementById('view').dispatchEvent(new DragEvent('drop', { dataTransfer: held, bubbles: true, cancelable: true }));
}"""
TRIANGLE = "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 9 0 0\nvertex 0 9 0\nendloop\nendfacet\nendsolid a\n"


def test_a_box_is_what_its_numbers_say_and_leaves_nothing_to_mend() -> None:
    """A frustum with round uprights less the same inside, told by its sections, rectangles with corners of 8 and of 6 mm:
    Simpson's rule is exact for what changes with the square of the height. (That the corners lean by 1.5° is left out.)
    """
    made = bodies(box(part([])))
    lean, wall = math.tan(math.radians(1.5)), 2 / math.cos(math.radians(1.5))

    def area(down: float, inside: float) -> float:
        off = inside + down * lean
        return (80 - 2 * off) * (50 - 2 * off) - (4 - math.pi) * (6 if inside else 8) ** 2

    def frustum(high: float, inside: float) -> float:
        return high / 6 * (area(0, inside) + 4 * area(high / 2, inside) + area(high, inside))

    (one,) = made.values()
    assert measure.volume(one.body.solid) == pytest.approx(frustum(25, 0) - frustum(23, wall), rel=2e-4)


def test_only_an_empty_part_begins_so(desk: Desk) -> None:
    source = demo.parts()["dusk-tuning-knob"]
    copy = copied(Document(name="Mine"), source)
    assert (copy.name, copy.steps, copy.values) == ("Mine", source.steps, source.values)
    for document in (copy, Document(kind="tool", name="Tool")):
        with pytest.raises(DocumentError, match="has steps already"):
            box(document)
    card = desk.library.add_document(desk.library.create_project("P").id, Document(name="Mine"))
    assert desk.post(f"/api/documents/{card.id}/beginning", base=1, like="welding").status_code == 422
    answer = desk.post(f"/api/documents/{card.id}/beginning", base=1, like="box").get_json()
    assert answer["revision"] == 2 and desk.done(answer["job"])["result"]["ok"]
    assert desk.post(f"/api/documents/{card.id}/beginning", base=2, like="box").status_code == 422


def test_a_new_part_offers_its_beginnings_and_takes_a_dropped_file(page: Page) -> None:
    page.goto("/")
    page.get_by_placeholder("Name of a new project").fill("Mine")
    page.get_by_role("button", name="New project").click()
    page.get_by_role("button", name="New part").first.click()
    hands = Hands(page)
    hands.ready()
    page.get_by_role("button", name="A box with a wall").click()
    hands.settle()
    assert page.evaluate("bench.result.ok && bench.result.steps.length") == 4 and page.evaluate("bench.undoCount") == 1
    page.keyboard.press("Control+z")
    hands.settle()
    assert page.locator("[data-begin]").count() == 3 + len(demo.parts())
    page.evaluate(DROP, TRIANGLE)
    page.wait_for_function("() => bench.result.bodies.length === 1 && bench.undoCount === 1")
