"""Whole jobs done from nothing by mouse and keys, and counted: a click, a drag, a key, a number or a word typed is one act.

Like jobs took 35, 60 and 90 acts before a sketch asked for its plane and steps took what the sheet tells; none may need more
than 60 % of that now.
"""

from __future__ import annotations

import math
import time
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page

from tests.referee.browser import FLAT_TOP, PLANE_KEYS, Hands, SketchHands

SMALL, MIDDLING, LARGE = 21, 36, 54


class Counted(Hands):
    """Hands that count what they do; nothing but the mouse and the keyboard moves the page."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.acts = 0
        self.sheet = SketchHands(page)
        self.began = time.perf_counter()

    def key(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.acts += 1

    def write(self, *numbers: str) -> None:
        """Numbers typed one after the other, Tab between them, and Enter."""
        for place, number in enumerate(numbers):
            if place:
                self.page.keyboard.press("Tab")
            self.page.keyboard.type(number)
            self.acts += 1
        self.page.keyboard.press("Enter")

    def kept(self, *numbers: str) -> None:
        """Numbers typed into the sheet's field that has the focus, until they are built."""
        self.write(*numbers)
        self.settle()

    def press(self, selector: str) -> None:
        self.page.locator(selector).first.click()
        self.acts += 1

    def hit(self, body: str, kind: str, test: str) -> None:
        """Click a face or edge that passes a test."""
        self.page.evaluate("atRest()")
        spot = self.find(body, kind, 80, test)
        self.page.mouse.click(spot["x"], spot["y"])
        self.acts += 1

    def place(self, *places: tuple[float, float]) -> None:
        """Click places of the drawing sheet, mm."""
        self.sheet.click(*places)
        self.acts += len(places)

    def step(self, word: str, *, picks: bool = False) -> str:
        """Add a step by its word."""
        known = self.ids()
        self.wanted(word)
        self.page.wait_for_function("n => document.querySelectorAll('.step').length > n", arg=len(known))
        new = next(i for i in self.ids() if i not in known)
        if picks:
            self.picking()
        else:
            self.page.wait_for_function("id => document.activeElement?.dataset.step === id", arg=new)
            self.settle()
        return new

    def wanted(self, word: str) -> None:
        self.key("/")
        self.page.keyboard.type(word)
        self.page.keyboard.press("Enter")
        self.acts += 1

    def sketch_on(self, plane: str = "", *, face: tuple[str, str] = ("", "")) -> str:
        """Begin a sketch on a standard plane by its key, or on a face by a click."""
        self.wanted("sketch")
        self.page.wait_for_function("() => bench.placing")
        if plane:
            self.key(PLANE_KEYS[plane])
        else:
            self.hit(face[0], "face", face[1])
        return self.drawing()

    def drawing(self) -> str:
        """Wait for the drawing sheet; gives the sketch."""
        self.page.wait_for_selector("html[data-sketching]", state="attached")
        self.page.wait_for_function("() => bench.sketcher.scene && bench.sketcher.frame")
        self.page.evaluate("atRest()")
        return str(self.page.evaluate("bench.sketcher.step"))

    def sized(self, *keys: str, at: tuple[float, float], sizes: tuple[str, ...]) -> None:
        """A figure begun by a click and ended by typed sizes."""
        self.key(*keys)
        self.place(at)
        count = self.page.evaluate("bench.sketcher.counted")
        self.write(*sizes)
        self.page.wait_for_function("c => bench.sketcher.counted > c", arg=count)
        self.sheet.quiet()

    def finish(self, *, chain: bool = False) -> None:
        """End the sketch with Enter; a chain that goes on is ended first."""
        if chain:
            self.key("Escape")
        self.after(lambda: self.key("Enter"))
        self.settle()

    def volumes(self) -> list[float]:
        assert self.page.evaluate("bench.result.ok"), self.page.evaluate("bench.result.steps.map((s) => s.message)")
        return [float(v) for v in self.page.evaluate("bench.result.bodies.map((body) => body.volume)")]

    def done(self, most: int, job: str) -> None:
        print(f"{job}: {self.acts} acts, {time.perf_counter() - self.began:.1f} s")
        assert self.acts <= most
        for width, height in ((1280, 800), (1024, 720)):
            self.page.set_viewport_size({"width": width, "height": height})
            self.page.evaluate("atRest()")
            assert self.page.evaluate(CUT_OFF) == []
            assert self.page.evaluate("document.documentElement.scrollWidth") <= width


# Words of the sheet, the foot, the strip and the list that do not fit where they stand.
CUT_OFF = """() => [...document.querySelectorAll('#sheet *, footer *, #strip *, #things *')].filter((e) =>
  e.offsetParent && e.children.length === 0 && e.textContent.trim() && e.tagName !== 'OPTION'
  && e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).overflow === 'hidden').map((e) => e.textContent.trim())"""


@pytest.fixture
def hands(page: Page) -> Iterator[Counted]:
    yield Counted(page)


def begin(hands: Counted, name: str) -> None:
    hands.begin(name)
    hands.began = time.perf_counter()


def test_a_ribbed_box(hands: Counted) -> None:
    begin(hands, "Ribbed box")
    hands.sketch_on("top")
    hands.sized("2", "2", at=(0, 0), sizes=("60", "40"))
    hands.finish()
    box = hands.step("extrude")
    hands.kept("20")
    hands.step("shell", picks=True)
    hands.hit(box, "face", FLAT_TOP)
    hands.kept("2")
    (shelled,) = hands.volumes()
    assert shelled == pytest.approx(60 * 40 * 20 - 56 * 36 * 18, rel=1e-9)
    # A sketch on the rim, which is picked by a click.
    hands.sketch_on(face=(box, FLAT_TOP))
    hands.key("1")
    hands.place((-15, -10), (-15, 10))
    hands.finish(chain=True)
    hands.step("rib")
    hands.kept("1.2")
    hands.step("pattern")
    hands.kept("3", "15")
    (ribbed,) = hands.volumes()
    lean = math.tan(math.radians(1))  # as ABS asks
    assert ribbed - shelled == pytest.approx(3 * 36 * 18 * (1.2 + 18 * lean), rel=1e-2)
    hands.done(MIDDLING, "ribbed box")


def test_a_cup_with_a_handle(hands: Counted) -> None:
    begin(hands, "Cup")
    hands.sketch_on("top")
    hands.sized("3", at=(0, 0), sizes=("80",))
    hands.finish()
    cup = hands.step("extrude")
    hands.kept("90")
    hands.step("shell", picks=True)
    hands.hit(cup, "face", FLAT_TOP)
    hands.kept("3")
    (plain,) = hands.volumes()
    assert plain == pytest.approx(math.pi * (1600 * 90 - 37**2 * 87), rel=1e-9)
    hands.sketch_on("front")
    hands.key("1")
    hands.place((38.5, 75), (65, 75), (65, 25), (38.5, 25))
    hands.finish(chain=True)
    hands.sketch_on("side")
    hands.sized("3", at=(0, 0), sizes=("6",))
    hands.finish()
    hands.wanted("sweep")
    hands.page.wait_for_function("() => bench.result.steps.length === 6")
    hands.settle()
    (held,) = hands.volumes()
    # About as much of the rod as stands out of the wall, its corners mitred.
    assert held - plain == pytest.approx(9 * math.pi * (2 * 25 + 50), rel=0.02)
    hands.done(MIDDLING, "cup with a handle")


def test_a_studded_brick(hands: Counted) -> None:
    begin(hands, "Brick")
    brick = hands.step("cube")
    hands.kept("32", "16", "9.6")
    assert hands.volumes() == pytest.approx([32 * 16 * 9.6], rel=1e-9)
    hands.press('[data-look="bottom"]')
    hands.step("shell", picks=True)
    hands.hit(brick, "face", FLAT_TOP.replace("> 0.99", "< -0.99"))
    hands.kept("1.5")
    hands.press('[data-look="top"]')
    (hollow,) = hands.volumes()
    assert hollow == pytest.approx(32 * 16 * 9.6 - 29 * 13 * 8.1, rel=1e-9)
    hands.sketch_on(face=(brick, FLAT_TOP))
    hands.sized("3", at=(-12, -4), sizes=("4.8",))
    hands.finish()
    hands.step("extrude")
    hands.kept("1.8")
    row = hands.step("pattern")
    hands.kept("4", "8")
    hands.press(f'input[data-step="{row}"][data-field="rows"]')
    hands.kept("2")
    hands.press(f'input[data-step="{row}"][data-field="row_spacing"]')
    hands.kept("8")
    (studded,) = hands.volumes()
    assert studded - hollow == pytest.approx(8 * math.pi * 2.4**2 * 1.8, rel=1e-9)
    hands.done(MIDDLING, "studded brick")


def test_a_bracket_with_a_tilted_pad(hands: Counted) -> None:
    begin(hands, "Bracket")
    hands.step("box")
    hands.kept("60", "40", "5")
    plane = hands.step("plane")
    hands.kept("20")
    hands.page.locator(f'select[data-step="{plane}"][data-field="base"]').select_option(label="tilt it …")
    hands.acts += 2
    hands.settle()
    hands.press(f'input[data-step="{plane}"][data-field="base.tilt"]')
    hands.kept("20")
    hands.wanted("sketch")  # on the plane just made, unasked
    hands.drawing()
    hands.sized("2", "2", at=(0, 0), sizes=("20", "16"))
    hands.finish()
    pad = hands.step("extrude")
    for field, value in (("extent", "to the next body"), ("direction", "down")):
        hands.choose(pad, field, value)
        hands.acts += 2
        hands.settle()
    # The pad's mean height over the plate is that of its middle: 20 - 5, along the tilted normal.
    lean = math.cos(math.radians(20))
    assert hands.volumes()[0] - 60 * 40 * 5 == pytest.approx(20 * 16 * 15 / lean, rel=1e-6)
    hands.done(MIDDLING, "bracket with a tilted pad")


def test_a_two_part_mold_of_a_turned_piece(hands: Counted) -> None:
    begin(hands, "Turned")
    hands.sketch_on("front")
    hands.key("1")
    hands.place((0, 0), (15, 0), (10, 20), (0, 20), (0, 0))
    hands.finish()
    hands.step("revolve")
    (piece,) = hands.volumes()
    assert piece == pytest.approx(math.pi * 20 / 3 * (225 + 150 + 100), rel=1e-9)
    hands.press('a[title="All projects"]')
    with hands.page.expect_navigation():
        hands.press("section[aria-label='Turned'] button:has-text('New tool')")
    hands.ready()
    for word in ("link", "shrink", "block", "subtract", "split", "register"):
        count = len(hands.ids())
        hands.wanted(word)
        hands.page.wait_for_function("n => bench.result?.steps.length > n", arg=count)
        hands.settle()
    assert hands.page.evaluate("bench.result.ok"), hands.page.evaluate("bench.result.steps.map((s) => s.message)")
    assert sorted(hands.page.evaluate("bench.result.bodies.map((b) => b.role)")) == ["cavity", "core", "linked"]
    hands.done(MIDDLING, "mold of a turned piece")


def test_enter_ends_a_pick_that_was_opened_anew_by_its_chip(hands: Counted) -> None:
    page = hands.page
    begin(hands, "Anew")
    box = hands.step("box")
    hands.kept("30", "20", "10")
    fillet = hands.step("fillet", picks=True)
    hands.hit(box, "face", FLAT_TOP)
    page.wait_for_function("() => bench.pickWords === '4 picked'")
    hands.kept("1")
    (before,) = hands.volumes()
    page.locator(f'[data-step="{fillet}"][data-field="edges"]').first.click()  # and keeps the focus
    hands.picking()
    page.keyboard.press("Enter")
    page.wait_for_function("() => !bench.picking")
    hands.settle()
    assert not page.evaluate("bench.picking") and hands.volumes() == pytest.approx([before])


def test_what_is_begun_next_ends_what_was_asked(hands: Counted) -> None:
    """A step added, or a chip pressed, while a place for a sketch is asked for: no sketch comes of the next click."""
    begin(hands, "Begun")
    box = hands.step("box")
    hands.kept("30", "20", "10")
    hands.wanted("sketch")
    hands.page.wait_for_function("() => bench.placing")
    hands.step("fillet", picks=True)
    assert not hands.page.evaluate("bench.placing") and hands.page.locator(".tag.is-place").count() == 0
    hands.hit(box, "face", FLAT_TOP)
    hands.page.wait_for_function("() => bench.pickWords === '4 picked'")
    hands.kept("1")
    assert hands.page.evaluate("bench.result.steps.map((s) => s.type)") == ["basic shape", "fillet"]
    assert hands.volumes()[0] < 6000


def test_a_number_typed_before_its_field_has_come_is_not_lost(hands: Counted) -> None:
    begin(hands, "Ahead")
    hands.key("/")
    hands.page.keyboard.type("cube")
    hands.page.keyboard.press("Enter")
    hands.write("25")  # at once, without waiting for the sentence
    hands.page.wait_for_function("() => bench.result?.bodies[0]?.high[0] === 12.5")
    hands.settle()
    assert hands.volumes() == pytest.approx([25 * 20 * 20])
