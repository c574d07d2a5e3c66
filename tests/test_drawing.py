"""The hand on the drawing sheet, in Chromium: numbers that never miss, keys that mean one thing, whole outlines fully fixed."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator

import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Page

from tests.referee.browser import FLAT_TOP, Hands, SketchHands


class Sheet(SketchHands):
    """An open drawing sheet, worked by keys and clicks."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.acts = 0

    def keys(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
        self.acts += len(keys)

    def write(self, text: str, *ends: str) -> None:
        """Type into whatever takes it, then keys such as Enter."""
        count = self.page.evaluate("bench.sketcher.counted")
        picks = self.page.evaluate("bench.sketcher.picks.length")
        self.page.keyboard.type(text)
        self.acts += 1
        for key in ends or ("Enter",):
            self.page.keyboard.press(key)
        if not ends or "Enter" in ends:
            self.page.wait_for_function(
                "([c, p]) => bench.sketcher.counted > c || bench.sketcher.picks.length !== p"
                " || document.activeElement.matches('.belt-field')",
                arg=[count, picks],
            )
        self.quiet()
        self.page.evaluate("atRest()")

    def say(self) -> str:
        return str(self.page.evaluate("bench.sk.say"))

    def focus(self) -> str:
        return str(self.page.evaluate("document.activeElement.getAttribute('aria-label') || ''"))

    def area(self) -> float:
        return float(self.page.evaluate("bench.sketcher.scene.area"))

    def hand(self) -> str:
        return str(self.page.evaluate("bench.sketcher.hand"))

    def touches(self) -> int:
        return int(self.page.evaluate("bench.sketcher.scene.constraints.filter((row) => row.type === 'tangent').length"))

    def on(self, name: str) -> tuple[float, float]:
        """A place on a curve, off its middle."""
        x, y = self.page.evaluate(
            "id => { const path = document.querySelector(`[data-curve='${id}']`); const { left, top } ="
            " document.getElementById('drawing').getBoundingClientRect(); const at = path.getPointAtLength("
            "path.getTotalLength() * 0.35); return [left + at.x, top + at.y]; }",
            name,
        )
        return (x, y)

    def choose(self, *names: str) -> None:
        """Choose curves by clicks."""
        self.let_go()
        for name in names:
            place = self.on(name)
            self.page.keyboard.down("Shift")
            self.page.mouse.click(*place)
            self.page.keyboard.up("Shift")
            self.page.wait_for_function("id => bench.sketcher.drawing.chosen.has(id)", arg=name)

    def put(self, name: str, value: float) -> None:
        """A size of a round, or of a line from the origin."""
        self.let_go()
        self.take("7", "size")
        line = self.page.evaluate("id => bench.sketcher.entity(id).type === 'line'", name)
        place = self.on(name)
        self.page.mouse.click(*place)
        if line:
            self.page.mouse.click(*self.spot(0, 0))
        self.page.mouse.click(place[0] + 25, place[1] + 25)
        self.page.wait_for_function("() => !bench.sketcher.input.hidden")
        self.page.keyboard.type(str(value))
        self.page.keyboard.press("Enter")
        self.page.wait_for_function("() => bench.sketcher.input.hidden")
        self.quiet()


@pytest.fixture
def sheet(page: Page) -> Iterator[Sheet]:
    hands = Hands(page)
    hands.begin("Sheet")
    hands.add("sketch")
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.wait_for_function("() => bench.sketcher.scene && bench.sketcher.frame")
    page.evaluate("atRest()")
    yield Sheet(page)


def test_all_is_typed_without_the_pointer_and_fully_fixed(sheet: Sheet) -> None:
    sheet.keys("3", "Tab")
    assert sheet.focus() == "at"
    sheet.write("10, 5")
    assert sheet.focus() == "diameter"
    sheet.write("12")
    assert sheet.area() == pytest.approx(36 * math.pi) and sheet.freedoms() == 0
    sheet.keys("2", "Tab")
    sheet.write("30, 0")
    sheet.write("40")
    assert sheet.focus() == "height", sheet.say()  # no height is taken from where the pointer happened to be
    sheet.keys("Enter")
    assert "type the height" in sheet.say()
    sheet.write("300")
    assert sheet.area() == pytest.approx(36 * math.pi + 12000) and sheet.freedoms() == 0
    sheet.keys("6", "Tab")
    sheet.write("-40, 0")
    sheet.write("30")
    assert sheet.focus() == "width"
    sheet.write("14")
    assert sheet.area() == pytest.approx(36 * math.pi + 12000 + 420 + 49 * math.pi)


def test_typed_places_follow_each_other_and_nothing_is_dropped_in_silence(sheet: Sheet) -> None:
    sheet.keys("1", "Tab")
    for place in ("0, 0", "30, 0", "30; 20", "0 20"):
        sheet.write(place)
        assert sheet.focus() == "at"
    assert sheet.freedoms() == 0
    sheet.write("7")
    assert "no place" in sheet.say() and sheet.focus() == "at"
    sheet.page.keyboard.press("Control+a")
    sheet.write("1q, 0")
    assert "cannot be read" in sheet.say()
    sheet.page.keyboard.press("Control+a")
    sheet.write("0, 0")
    assert sheet.area() == pytest.approx(600) and sheet.freedoms() == 0


def test_digits_choose_tools_only_while_no_number_is_awaited(sheet: Sheet) -> None:
    sheet.keys("2")
    sheet.click((0, 0))
    sheet.write("60", "Tab")
    sheet.write("40")
    sheet.keys("Escape", "Shift+4")
    assert sheet.hand() == "round"
    sheet.page.keyboard.press("Control+a")
    sheet.page.keyboard.type("0.5")
    sheet.keys("Enter")
    assert sheet.hand() == "round" and sheet.page.locator(".belt-field[aria-label=radius]").input_value() == "0.5"
    sheet.keys("Escape", "Escape", "0")
    assert sheet.hand() == "offset"
    sheet.click((30, 0))
    sheet.page.get_by_role("button", name="in", exact=True).click()
    before = sheet.area()
    count = sheet.page.evaluate("bench.sketcher.counted")
    sheet.keys("Enter")  # the option has the focus: Enter does what the foot says
    sheet.page.wait_for_function("c => bench.sketcher.counted > c", arg=count)
    assert sheet.area() == pytest.approx(before - 56 * 36)  # the offset is a hole in what was there


def test_no_click_of_a_quick_hand_is_lost(sheet: Sheet) -> None:
    sheet.keys("1")
    sheet.page.route("**/guess", lambda route: (sheet.page.wait_for_timeout(120), route.continue_()))
    for place in ((-20, -10), (20, -10), (20, 14)):  # the pointer moves on before anything has come back
        sheet.page.mouse.click(*sheet.spot(*place))
        sheet.page.mouse.move(*sheet.spot(place[0] + 3, place[1] + 7), steps=3)
    sheet.page.wait_for_function("() => bench.sketcher.scene.entities.length === 2")
    points = sheet.page.evaluate("Object.keys(bench.sketcher.scene.points).length")
    assert points == 1 + 3  # the origin, and one corner in common


def test_escape_takes_a_size_just_placed_away_and_leaves_one_that_was_there(sheet: Sheet) -> None:
    sheet.keys("1")
    sheet.click((0, 0), (40, 0))
    sheet.let_go()
    free = sheet.freedoms()
    sheet.keys("7")
    sheet.click((20, 0), (20, 8))
    sheet.page.wait_for_function("() => !bench.sketcher.input.hidden")
    sheet.keys("Escape")
    sheet.page.wait_for_function("f => bench.sketcher.scene.freedoms === f", arg=free)
    sheet.size((20, 0), (20, 8), "55")
    sheet.let_go()
    sheet.page.locator("[data-ids] .number").first.click()
    sheet.keys("Escape")
    assert sheet.page.evaluate("bench.sketcher.scene.sizes[0].value") == "55"


def test_the_count_of_a_row_is_typed_where_it_stands(sheet: Sheet) -> None:
    """Ten studs in a row: three typed numbers make them, one makes nine of them."""
    sheet.keys("3", "Tab")
    sheet.write("0, 0")
    sheet.write("4.8")
    sheet.keys("Escape")
    sheet.click((0, 2.4))
    sheet.keys("Shift+8")
    sheet.write("10", "Tab")
    sheet.write("8", "Enter")
    assert sheet.area() == pytest.approx(10 * 2.4**2 * math.pi) and sheet.freedoms() == 0
    sheet.page.locator(".row", has_text="how many in the row").locator(".number").click()
    sheet.write("9")
    assert sheet.area() == pytest.approx(9 * 2.4**2 * math.pi) and sheet.freedoms() == 0


# --- whole outlines, drawn from nothing ------------------------------------------------------------------------------


def trim(sheet: Sheet, *places: tuple[float, float]) -> None:
    sheet.let_go()
    sheet.take("9", "trim")
    for place in places:
        sheet.click(place)
        sheet.acts += 1


def test_a_ring_of_two_arcs_with_a_stem(sheet: Sheet) -> None:
    """Ring 40 and 30 about the origin, a stem 8 wide down to −40: what of the stem lies outside the ring is 320 less the strip
    under the circle, 4·√384 + 400·asin(1/5).
    """
    for diameter in ("40", "30"):
        sheet.keys("3", "Tab")
        sheet.write("0, 0")
        sheet.write(diameter)
        sheet.keys("Escape")
    sheet.keys("2", "Tab")
    sheet.write("-4, -40")
    sheet.write("8", "Tab")
    sheet.write("30")
    trim(sheet, (0, -10), (-4, -12), (-4, -17), (4, -12), (4, -17), (0, -20))
    assert sheet.freedoms() == 0, sheet.say()
    stem = 320 - 4 * math.sqrt(384) - 400 * math.asin(0.2)
    assert sheet.area() == pytest.approx(math.pi * (400 - 225) + stem, rel=1e-9)
    assert sheet.page.evaluate("bench.sketcher.scene.gaps") == [] and sheet.acts <= 40


def test_a_clip_in_inches_with_four_tangents(page: Page) -> None:
    """Circles of 1 and 0.5 in, 2 in apart, and the two lines that touch both from outside: with a = asin(0.25 / 2) and the
    tangents' length √(4 − 1/16) the area is 0.75·√(4 − 1/16) + (π/2 + a)/4 + (π/2 − a)/16 in².
    """
    hands = Hands(page)
    hands.begin("Inches")
    with page.expect_navigation():
        page.locator("[data-unit-field]").select_option("in")
    page.wait_for_selector("html[data-ready]", state="attached")
    hands.add("sketch")
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.wait_for_function("() => bench.sketcher.scene && bench.sketcher.frame")
    page.evaluate("atRest()")
    sheet = Sheet(page)
    for place, diameter in (("0, 0", "1"), ("2, 0", "0.5")):
        sheet.keys("3", "Tab")
        sheet.write(place)
        sheet.write(diameter)
        sheet.keys("Escape")
    a = math.asin(0.125)
    inch = 25.4
    for side in (1, -1):
        ends = [(inch * (x + r * math.sin(a)), inch * side * r * math.cos(a)) for x, r in ((0, 0.5), (2, 0.25))]
        sheet.keys("1")
        sheet.click(*ends)
        sheet.let_go()
        # Its end was snapped to where it touches; the second line, by a guess as long as the first, touches at its start too.
        if sheet.freedoms():
            sheet.fix("t", (sum(x for x, _ in ends) / 2, sum(y for _, y in ends) / 2), (-inch * 0.5, 0))
    assert sheet.touches() >= 3 and sheet.freedoms() == 0, sheet.say()
    trim(sheet, (inch * 0.5, 0), (inch * 1.75, 0))
    area = 0.75 * math.sqrt(4 - 1 / 16) + (math.pi / 2 + a) / 4 + (math.pi / 2 - a) / 16
    assert sheet.freedoms() == 0, sheet.say()
    assert sheet.area() == pytest.approx(area * inch**2, rel=1e-9)


def notched() -> bytes:
    """A housing of 120 × 70 mm with corners of 6 and four notches of 12 × 8 in each long side, eight pixels to a mm: 36 lines
    and four arcs.
    """
    ground, part, more = (240, 240, 236), (52, 66, 74), 4
    image = Image.new("RGB", (1120 * more, 720 * more), ground)
    pen = ImageDraw.Draw(image)

    def box(x0: float, y0: float, x1: float, y1: float) -> tuple[float, ...]:
        return tuple(more * (560 + 8 * v if k % 2 == 0 else 360 - 8 * v) for k, v in enumerate((x0, y1, x1, y0)))

    pen.rounded_rectangle(box(-60, -35, 60, 35), 6 * 8 * more, fill=part)
    for x in (-42, -18, 6, 30):
        pen.rectangle(box(x, 27, x + 12, 40), fill=ground)
        pen.rectangle(box(x, -40, x + 12, -27), fill=ground)
    file = io.BytesIO()
    image.resize((1120, 720), Image.Resampling.LANCZOS).save(file, "PNG")
    return file.getvalue()


def test_a_housing_of_forty_pieces_is_traced_from_a_photo_and_fixed(sheet: Sheet) -> None:
    page = sheet.page
    count = page.evaluate("bench.sketcher.counted")
    page.locator("#bring-photo").set_input_files({"name": "housing.png", "mimeType": "image/png", "buffer": notched()})
    page.wait_for_function("c => bench.sketcher.counted > c && bench.sketcher.hand === 'photo'", arg=count)
    photo = page.evaluate("bench.sketcher.scene.photos[0]")
    scale = photo["width"] / 1120
    left, right = ((photo["at"][0] + x * 8 * scale, photo["at"][1]) for x in (-60, 60))
    for place in (left, right):
        page.mouse.click(*sheet.spot(*place))
    page.evaluate("document.querySelector('.belt-field').focus()")
    count = page.evaluate("bench.sketcher.counted")
    page.keyboard.type("120")
    page.keyboard.press("Enter")
    page.wait_for_function("c => bench.sketcher.counted > c", arg=count)
    x, y = page.evaluate("bench.sketcher.scene.photos[0].at")  # it is drawn by hand to where its middle is the origin
    count = page.evaluate("bench.sketcher.counted")
    page.mouse.move(*sheet.spot(x, y))
    page.mouse.down()
    page.mouse.move(*sheet.spot(0, 0), steps=4)
    page.mouse.up()
    page.wait_for_function("c => bench.sketcher.counted > c", arg=count)
    count = page.evaluate("bench.sketcher.counted")
    page.get_by_role("button", name="find the outline").click()
    page.wait_for_function("c => bench.sketcher.counted > c && bench.sketcher.hand === 'choose'", arg=count)
    assert page.evaluate("bench.sketcher.scene.entities.length") == 40 and "of the photo's edges" in sheet.say()
    rough = 120 * 70 - (4 - math.pi) * 36 - 8 * 96
    assert sheet.area() == pytest.approx(rough, rel=0.01)

    lines = [e for e in page.evaluate("bench.sketcher.scene.entities") if e["type"] == "line"]
    level = [e for e in lines if abs(e["a"][1] - e["b"][1]) < 1e-6]
    plumb = [e for e in lines if abs(e["a"][0] - e["b"][0]) < 1e-6]
    assert len(level) == 18 and len(plumb) == 18
    groups: dict[int, list[str]] = {}
    for line in level:
        groups.setdefault(round(line["a"][1]), []).append(line["id"])
    assert sorted(groups) == [-35, -27, 27, 35]
    arcs = [e["id"] for e in page.evaluate("bench.sketcher.scene.entities") if e["type"] == "arc"]
    for names, key in [*((group, "l") for group in groups.values()), (arcs, "e")]:
        sheet.choose(*names)
        before = sheet.freedoms()
        page.keyboard.press(key)
        page.wait_for_function("f => bench.sketcher.scene.freedoms < f", arg=before)
    sizes = [(line["id"], abs(round(line["a"][0]))) for line in plumb]
    sizes += [(names[0], abs(y)) for y, names in groups.items()]
    for name, value in [*sizes, (arcs[0], 6)]:
        sheet.put(name, value)
    assert sheet.freedoms() == 0, sheet.say()
    assert sheet.area() == pytest.approx(rough, rel=1e-9)


def test_the_models_own_corners_and_edges_are_snapped_to_and_sized_from(page: Page) -> None:
    """On the top of a block of 60 × 40: a line from its corner to the middle of an edge, a hole sized from two of its edges;
    what was used of the model is taken, fixed, and follows it.
    """
    hands = Hands(page)
    hands.begin("Model")
    outline = hands.sketch("rectangle")
    hands.type(outline, "figures.f1.width", "60 mm")
    hands.type(outline, "figures.f1.height", "40 mm")
    raised = hands.add("extrude")
    hands.type(raised, "distance", "10 mm")
    hands.settle()
    page.evaluate("document.activeElement.blur()")
    top = hands.find(raised, "face", 6, FLAT_TOP)
    page.mouse.click(top["x"], top["y"])
    hands.add("sketch")
    page.wait_for_selector("html[data-sketching]", state="attached")
    page.wait_for_function("() => bench.sketcher.frame && bench.sketcher.model.laid.length === 1")
    sheet = Sheet(page)
    corners = sorted(
        tuple(round(c, 6) for c in p) for p in page.evaluate("bench.sketcher.model.curves.map((c) => c.places[0])")
    )
    left, low = corners[0]
    right, high = corners[-1]
    sheet.keys("1")
    page.mouse.move(*sheet.spot(left + 0.4, low + 0.4), steps=3)
    page.locator("#aim", has_text="on the point of the model").wait_for()
    sheet.click((left + 0.4, low + 0.4), ((left + right) / 2 + 0.3, high - 0.3))
    sheet.let_go()
    lines = [e for e in page.evaluate("bench.sketcher.scene.entities") if not e["taken"]]
    assert [*lines[0]["a"], *lines[0]["b"]] == pytest.approx([left, low, (left + right) / 2, high]) and sheet.freedoms() == 0
    sheet.keys("3")
    sheet.click((left + 12, low + 11), (left + 15, low + 11))
    sheet.let_go()
    taken = page.evaluate("bench.sketcher.scene.entities.filter((e) => e.taken).length")
    for edge, label in (((left, high - 6), (left + 6, high - 8)), ((left + 42, low), (left + 46, low + 6))):
        sheet.keys("7")
        sheet.click((left + 12, low + 11))
        sheet.click(edge)
        sheet.click(label)
        page.wait_for_function("() => !bench.sketcher.input.hidden")
        page.keyboard.type("9")
        page.keyboard.press("Enter")
        page.wait_for_function("() => bench.sketcher.input.hidden")
        sheet.let_go()
    hole = next(e for e in page.evaluate("bench.sketcher.scene.entities") if e["type"] == "circle")
    assert hole["c"] == pytest.approx([left + 9, low + 9]) and sheet.freedoms() == 1  # its diameter
    assert page.evaluate("bench.sketcher.scene.entities.filter((e) => e.taken).length") >= taken
