"""The mold base: its layout as properties, and whole tools against another engine."""

from __future__ import annotations

import math
from itertools import combinations
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from supplecast.geometry import Vec
from supplecast.molding import opening
from supplecast.steps.tool.stroke import stroke_of
from supplecast.tooling import stiffness
from supplecast.tooling.base.component import Component
from supplecast.tooling.base.components import NoRoomError
from supplecast.tooling.base.layout import Guiding, Layout, Surroundings, laid_out
from supplecast.tooling.base.mouth import Sprue
from supplecast.tooling.base.places import WALL, Block, Plan, Round
from supplecast.tooling.base.stack import GIVE, Asked, stack
from supplecast.tooling.stock import at_least
from tests.conftest import STEPS, part, tool
from tests.stations import clashes
from tests.test_tools import HALVES, SLIDE, TRAY, WINDOW, built

WIDER: STEPS = [{**step, "around": "45"} if step["type"] == "block" else step for step in HALVES]
TWO: STEPS = [
    {"id": "ins", "type": "inserts", "columns": 2, "rows": 1, "second": "as the first", "plates": "in stock sizes"},
    {"id": "run", "type": "runners"},
]
BASE: dict[str, Any] = {"id": "mb", "type": "mold base"}
PINS: dict[str, Any] = {"id": "eje", "type": "ejectors", "count": 4}
ROOMY: STEPS = [{**step, "around": "34"} if step["type"] == "block" else step for step in SLIDE]
DRIVE: dict[str, Any] = {"id": "drv", "type": "slide drive"}
CHECK: dict[str, Any] = {"id": "opn", "type": "opening check"}


# --- layouts --------------------------------------------------------------------------------------------------------


@st.composite
def surroundings(draw: st.DrawFn) -> tuple[Asked, Surroundings, Guiding]:
    """Plates with one or two rows of pockets in them, a sprue in the middle, and parts half as large as their pockets."""
    columns, rows = draw(st.sampled_from([(1, 1), (2, 1), (2, 2)]))
    wide, deep = draw(st.floats(50, 160)), draw(st.floats(50, 160))
    between, margin, high, floor = (
        draw(st.floats(20, 40)),
        draw(st.floats(25, 60)),
        draw(st.floats(20, 60)),
        draw(st.floats(12, 30)),
    )
    length, width = columns * wide + (columns - 1) * between + 2 * margin, rows * deep + (rows - 1) * between + 2 * margin
    assume(length >= width)
    pockets, shadows = {}, []
    for column in range(columns):
        for row in range(rows):
            u = (column - (columns - 1) / 2) * (wide + between)
            v = (row - (rows - 1) / 2) * (deep + between)
            for side, (low, top) in {"core": (0.0, high), "cavity": (-high, 0.0)}.items():
                ends = (u - wide / 2, v - deep / 2), (u + wide / 2, v + deep / 2)
                pockets[f"{side}{column}{row}"] = (side, Block(*ends, low, top, f"the {side} insert"))
            shadows.append(Block((u - wide / 4, v - deep / 4), (u + wide / 4, v + deep / 4), -high / 3, high / 4, "a part"))
    stands = draw(st.floats(0, 20))
    force, edge = draw(st.floats(2e4, 6e5)), draw(st.floats(0, 30))
    asked = Asked(length, width, high + floor, high + floor, stands, force, floor, rows * deep, edge, lifted=stands)
    sprue = Sprue((0.0, 0.0), 2.0, 0.02, 0.0) if columns == 2 else None
    guiding = Guiding(odd=draw(st.floats(0, 8)), props=draw(st.booleans()))
    return (
        asked,
        Surroundings([block for _, block in pockets.values()], shadows, pockets, sprue, draw(st.floats(5, 400))),
        guiding,
    )


def laid(asked: Asked, around: Surroundings, guiding: Guiding) -> Layout:
    try:
        return laid_out(asked, around, guiding)
    except NoRoomError as fault:
        assert (fault.message and fault.hint and " mm" in fault.message + fault.hint) or "room" in fault.message
        assume(False)
        raise


@settings(max_examples=60, deadline=None)
@given(surroundings())
def test_any_layout_keeps_steel_between_all_that_it_opens(case: tuple[Asked, Surroundings, Guiding]) -> None:
    """Holes stay apart from each other and from pockets, each is wide enough for what goes through it wherever that does, and
    the pillars are in their bushes before the highest core comes in.
    """
    layout = laid(*case)
    asked, around, _ = case
    for a, b in combinations(layout.components, 2):
        if a.at == b.at or "insertscrew" in a.id + b.id or "ring" in a.id + b.id:  # one in another, or in another's pocket
            continue
        least = min((p.away(q) for p in a.rounds for q in b.rounds if _level(p, q)), default=math.inf)
        assert least >= WALL - 1e-6, (a.id, b.id, least)
    for one in layout.components:
        if one.through and not one.id.startswith(("ring", "spruebush", "insertscrew")):
            assert all(block.away(r.at) >= r.radius for r in one.rounds for block in around.blocks if _level(r, block)), one.id
        assert _fits(one), one.id
    assert layout.stack.room >= layout.stack.stroke and layout.stack.gives <= 1.02 * GIVE
    tips = [-one.outer[0][0] for one in layout.components if one.name == "Guide pillar"]
    assert len(tips) == 4 and min(tips) >= min(asked.stands, asked.cavity + layout.stack["fixedclamp"].thick - WALL) - 1e-9


def _level(a: Any, b: Any) -> bool:
    return bool(a.low < b.high - 1e-9 and b.low < a.high - 1e-9)


def _fits(one: Component) -> bool:
    """Whether a component is nowhere wider than its hole where it has one."""
    if not one.hole:
        return True
    low, high = one.hole[0][0], one.hole[-1][0]
    spots = [p + s for p, _ in one.outer for s in (-1e-6, 1e-6) if low < p + s < high]
    return all(_radius(one.outer, level) <= _radius(one.hole, level) + 1e-9 for level in spots)


def _radius(outline: Any, level: float) -> float:
    for (a, r), (b, q) in zip(outline, outline[1:], strict=False):
        if a < level < b:
            return float(r + (q - r) * (level - a) / (b - a))
    return 0.0


def test_support_pillars_halve_the_span() -> None:
    """Two spans of half the length under half the force each: the plate needs 16^(1/3) times less thickness by the beam."""
    asked = Asked(400.0, 300.0, 60.0, 60.0, 10.0, 8e5, 0.0, 100.0, 25.0, lifted=10.0)
    whole, halved = stack(asked), stack(Asked(**{**asked.__dict__, "propped": True}))
    needed = [stiffness.thickness_between(s * 8e5, s * whole.span, 400.0, GIVE) for s in (1.0, 0.5)]
    assert needed[0] / needed[1] == pytest.approx(16 ** (1 / 3))
    assert whole["support"].thick == at_least(needed[0]) and halved["support"].thick == at_least(needed[1])


def test_four_mirrored_places_stand_apart_from_each_other() -> None:
    """Where only the middle lines are left, two of the four would be one hole: then there is no such place."""
    pin = [Round((0, 0), 6, 0, 30)]
    assert Plan(100, 100, []).four(pin, [40.0], [3.0, 0.0]) is None
    (places,) = [Plan(100, 100, []).four(pin, [40.0], [3.0, (12 + WALL) / 2])]
    assert places is not None and min(math.dist(a, b) for a, b in combinations(places, 2)) == pytest.approx(12 + WALL)


def test_what_does_not_fit_is_said_with_what_would_do() -> None:
    asked = Asked(200.0, 160.0, 40.0, 40.0, 10.0, 1e5, 15.0, 60.0, 25.0, lifted=10.0)
    pocket = Block((-95.0, -75.0), (95.0, 75.0), -30.0, 30.0, "the insert")
    around = Surroundings([pocket], [pocket], {}, None, 20.0)
    with pytest.raises(NoRoomError) as none:
        laid_out(asked, around, Guiding())
    assert none.value.field == "pillar" and "margin" in none.value.hint
    small = Block((-40.0, -30.0), (40.0, 30.0), -30.0, 30.0, "the insert")
    fitting = Surroundings([small], [small], {}, None, 20.0)
    with pytest.raises(NoRoomError) as low:
        laid_out(Asked(**{**asked.__dict__, "spacer": 40.0}), fitting, Guiding())
    assert low.value.field == "spacer"
    height = float(low.value.hint.split()[1])
    assert laid_out(Asked(**{**asked.__dict__, "spacer": height}), fitting, Guiding()).stack["spacer1"].thick == height


# --- whole tools ----------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def based() -> Built:
    return whole_tool([*ROOMY, *TWO, BASE, DRIVE, PINS, CHECK], WINDOW)


def whole_tool(steps: STEPS, of: STEPS = TRAY) -> Built:
    made = built(tool(steps), part(of))
    assert made.ok, [(o.step, o.field, o.message) for o in made.outcomes if o.status != "ok"]
    return made


def entries(made: Built, *kinds: str) -> list[Entry]:
    return [e for e in made.state.bodies.values() if e.stock and e.stock.kind in kinds]


def test_no_two_bodies_of_a_whole_tool_share_space(based: Built) -> None:
    """By manifold3d, at rest, and at ten stations each of the opening and of the ejectors' stroke."""
    bodies = [e for e in based.state.bodies.values() if e.role not in ("feed", "molded")]
    assert all(kernel.shape.is_valid(e.body.solid) for e in bodies)
    meshes = {e.id: opening.Meshed(e.body.solid).manifold for e in bodies}
    boxes = {e.id: meshes[e.id].bounding_box() for e in bodies}
    moving = {e.id for e in bodies if e.role in ("core", "core insert", "moving base", "ejection", "ejector")}
    pushing = {e.id for e in bodies if e.role in ("ejection", "ejector")}
    slides = {e.id: e for e in bodies if e.role == "core slide"}
    stroke, draws = based.outcome("mb").figures["ejector_stroke"], based.outcome("drv").figures["slide_stroke"]

    def shares(going: set[str], others: set[str], by: Vec) -> list[tuple[str, str, float]]:
        found = []
        for a in going:
            for b in others:
                p, q = boxes[a], boxes[b]
                if all(p[k] + by[k] < q[k + 3] and q[k] < p[k + 3] + by[k] for k in range(3)):
                    volume = abs((meshes[a].translate(by) ^ meshes[b]).volume())
                    if volume > 4.0:  # mm³ of facets where rounds slide in each other
                        found.append((a, b, volume))
        return found

    everything = set(meshes)
    assert not [row for a in meshes for row in shares({a}, everything - {a}, (0.0, 0.0, 0.0))]
    for up in (2.0, 5.0, 9.0, 14.0, 20.0, 30.0, 45.0, 60.0, 90.0, 120.0):
        assert not shares(moving, everything - moving - set(slides), (0.0, 0.0, up))
        for slide in slides.values():  # it goes up with the core side, and out along its pin
            assert slide.pull is not None
            out = min(up * math.tan(math.radians(15.0)), draws)
            gone = (slide.pull[0] * out, slide.pull[1] * out, up)
            assert not shares({slide.id}, everything - moving - {slide.id}, gone), up
            assert not shares({slide.id}, moving, (gone[0], gone[1], 0.0)), up
    for station in range(1, 11):
        assert not shares(pushing, moving - pushing, (0.0, 0.0, -stroke * station / 10))


def test_the_view_plays_the_stroke_without_a_clash(based: Built) -> None:
    """Slides along their pins as the core side leaves, parts pushed off last; other steps have it tested beside them."""
    assert not clashes(based, [k / 15 for k in range(16)])
    stroke = stroke_of(list(based.state.bodies.values()))
    assert stroke is not None and stroke.up == (0, 0, -1)
    assert [stage.words for stage in stroke.stages] == ["core side", "ejectors"]


def test_a_pin_draws_its_slide_by_the_stroke(based: Built) -> None:
    """Angle and stroke by the sides of a triangle; flush with the cavity side's back, so that one end is cut aslant."""
    pins = entries(based, "Angle pin")
    assert len(pins) == 2 and all(e.pull is not None for e in pins)
    for pin in pins:
        assert pin.pull is not None and pin.stock is not None
        assert math.degrees(math.acos(pin.pull[2])) == pytest.approx(15.0)
        r, long = pin.stock.sizes[0] / 2, pin.stock.cut or 0.0
        assert kernel.measure.volume(pin.body.solid) == pytest.approx(math.pi * r * r * long, rel=1e-4)
    assert len(entries(based, "Stop pin")) == 2

    def outcome(**fields: Any) -> Any:
        return built(tool([*ROOMY, *TWO, {**DRIVE, **fields}]), part(WINDOW)).outcomes[-1]

    for fields, field, words in (
        ({"angle": "26"}, "angle", "25"),
        ({"diameter": "30 mm"}, "diameter", "for a pin"),
        ({"stroke": "1 mm"}, "stroke", "deep"),
        ({"angle": "20"}, "angle", "wedge"),
    ):
        failed = outcome(**fields)
        assert failed.status == "failed" and failed.field == field and words in failed.message + failed.hint, failed
    twice = built(tool([*ROOMY, *TWO, DRIVE, {**DRIVE, "id": "drv2"}]), part(WINDOW)).outcomes[-1]
    assert "already" in twice.message and twice.field == "angle"
    turned = whole_tool([*ROOMY, *TWO, DRIVE, BASE, CHECK], WINDOW)  # in the other order the base keeps off the pins
    assert len(entries(turned, "Angle pin")) == 2 and len(entries(turned, "Guide pillar")) == 4
    bare = whole_tool([*ROOMY, *TWO, BASE, CHECK], WINDOW).outcomes[-1]
    assert any("Nothing draws" in flag.words for flag in bare.flags)
    none = built(tool([*HALVES, DRIVE]), part(WINDOW)).outcomes[-1]
    assert "No slide rides" in none.message and "side opening" in none.hint


def test_every_hole_is_concentric_through_its_stack(based: Built) -> None:
    """Read off the solids: on the axis of each pin and screw, every plate it goes through has a round face about it."""
    places = {
        e.id: kernel.measure.box(e.body.solid)
        for e in entries(based, "Socket screw", "Return pin", "Ejector pin", "Guide pillar")
    }
    plates = [e for e in based.state.bodies.values() if (e.stock and e.stock.form == "plate") or e.role in ("core", "cavity")]
    assert len(places) > 30
    for name, box in places.items():
        through = 0
        for plate in plates:
            own, solid = kernel.measure.box(plate.body.solid), plate.body.solid
            low, high = max(own.low[2], box.low[2]), min(own.high[2], box.high[2])
            x, y, beside = box.centre[0], box.centre[1], box.size[0] / 2 + 2.0
            ring = [(x + beside * math.cos(a), y + beside * math.sin(a), (low + high) / 2) for a in (0.3, 1.9, 3.4, 5.0)]
            if high - low < 2.0 or not all(kernel.probing.holds(solid, spot) for spot in ring):
                continue
            faces = [face for face in range(solid.face_count) if not kernel.measure.is_flat(solid, face)]
            rounds = [kernel.measure.face_box(solid, face) for face in faces]
            assert min(math.dist(r.centre[:2], (x, y)) for r in rounds) < 1e-6, (name, plate.name)
            through += 1
        assert through >= 1, name


def test_faces_that_are_seen_bear_no_pin_whichever_copy_they_are_picked_on() -> None:
    """The floor of either of two trays: nothing is left for pins, and that is the reason given; a face of steel is refused."""

    def outcome(face: str, body: str) -> Any:
        return built(tool([*ROOMY, *TWO, {**PINS, "seen": [{"face": face, "body": body}]}]), part(WINDOW)).outcomes[-1]

    for number in (1, 2):
        failed = outcome(f"lnk.of{{shl.inner{{ext.end}}}}[{number}]", f"ins.lnk{number}")
        assert failed.field == "seen" and "no flat place" in failed.message and "Leave one" in failed.hint
    aside = outcome("lnk.of{shl.inner{ext.side[f1_L1]}}[2]", "ins.lnk2")
    assert aside.status == "ok" and "1 at" in aside.notes[0]
    steel = outcome("ins.core.plane", "ins.core")
    assert steel.field == "seen" and "Core plate" in steel.message, steel


def test_a_pin_under_the_sprue_is_no_wider_than_its_well() -> None:
    """Pins of 8 mm: the well ends 5.4 mm wide, and a wider pin would open its sides."""
    made = whole_tool([*ROOMY, *TWO, BASE, DRIVE, {**PINS, "diameter": "8 mm", "count": 2}], WINDOW)
    widths = {e.id: kernel.measure.box(e.body.solid).size for e in entries(made, "Ejector pin")}
    assert len(widths) == 5
    (under,) = (e.stock for e in entries(made, "Ejector pin") if e.id == "eje.UnderTheSprue")
    assert (
        under is not None and under.sizes[0] <= 5.4 and all(w[0] == pytest.approx(14.0) for n, w in widths.items() if "At" in n)
    )


def test_components_are_listed_by_their_sides_and_weighed(based: Built) -> None:
    """A pillar's volume in closed form: tip, shaft and head."""
    (clamp,) = entries(based, "Fixed clamping plate")
    assert clamp.group == ("Fixed side",) and clamp.role == "fixed base"
    pillar = entries(based, "Guide pillar")[0]
    assert pillar.stock is not None
    wide, _ = pillar.stock.sizes
    r, lead, cut = wide / 2, 0.15 * wide, pillar.stock.cut or 0.0
    tip, head = r - 0.3 * lead, 6.0 if wide < 20 else 8.0
    volume = (
        math.pi * lead / 3 * (r * r + r * tip + tip * tip)
        + math.pi * r * r * (cut - lead - head)
        + math.pi * (r + 3) ** 2 * head
    )
    assert kernel.measure.volume(pillar.body.solid) == pytest.approx(volume, rel=1e-9)
    assert len({e.name for e in based.state.bodies.values()}) == len(based.state.bodies)


def test_the_sprue_leads_on_to_the_nozzle(based: Built) -> None:
    """The feed grows by a cone that carries on the sprue's taper through the clamping plate; the bush has room for it."""
    before = built(tool([*ROOMY, *TWO]), part(WINDOW))
    feeds = [next(e for e in made.state.bodies.values() if e.role == "feed") for made in (before, based)]
    (bush,) = entries(based, "Sprue bush")
    boxes = [kernel.measure.box(e.body.solid) for e in feeds]
    grown = kernel.measure.volume(feeds[1].body.solid) - kernel.measure.volume(feeds[0].body.solid)
    long = boxes[0].low[2] - boxes[1].low[2]
    outer, inner = 2.0, 3.0  # radii of the sprue at the plate's back and at the parting plane
    slope = (inner - outer) / (0.0 - boxes[0].low[2] + parting(based))
    nozzle = outer - slope * long
    assert grown == pytest.approx(math.pi * long / 3 * (outer**2 + outer * nozzle + nozzle**2), rel=1e-3)
    assert abs((opening.Meshed(bush.body.solid).manifold ^ opening.Meshed(feeds[1].body.solid).manifold).volume()) < 0.05


def parting(made: Built) -> float:
    core = next(e for e in made.state.bodies.values() if e.role == "core")
    return kernel.measure.box(core.body.solid).low[2]


def test_pins_made_before_the_base_are_put_into_it() -> None:
    """In the wrong order too: pins of a plate of their own get heads and go on to the ejector plate."""
    right, wrong = (whole_tool([*WIDER, *order, CHECK]) for order in ((BASE, PINS), (PINS, BASE)))
    pins = [entries(made, "Ejector pin") for made in (right, wrong)]
    assert len(pins[0]) == len(pins[1]) == 4
    assert not any(e.name == "Ejectors" for e in wrong.state.bodies.values())


def test_what_stands_in_the_way_of_a_base_is_said() -> None:
    def outcome(*steps: dict[str, Any], **fields: Any) -> Any:
        return built(tool([*WIDER, *steps, {**BASE, **fields}]), part(TRAY)).outcomes[-1]

    assert "already" in outcome(BASE | {"id": "mb1"}).message
    register = outcome({"id": "reg", "type": "register pins", "odd": "5 mm"})
    assert any("Register pins" in flag.words for flag in register.flags)
    skipped = outcome({"id": "reg", "type": "register pins", "odd": "5 mm", "skip": True})
    assert not any("Register pins" in flag.words for flag in skipped.flags)
    late = built(tool([*WIDER, BASE, {"id": "fee", "type": "feed"}]), part(TRAY)).outcome("mb")
    assert any("made below this step" in flag.words for flag in late.flags)
    assert outcome(spacer="20 mm").field == "spacer" and outcome(ring="400 mm").field == "ring"
    short = outcome(stroke="8 mm")
    assert short.status == "ok" and any("still hang on the cores" in flag.words for flag in short.flags)
    weak = outcome(support="10 mm")
    assert weak.status == "ok" and any("gives way" in flag.words for flag in weak.flags)
