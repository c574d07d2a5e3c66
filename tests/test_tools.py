"""The tool sheet: slides, inserts, runners, pins, vents, bores, the opening check and the estimates, against closed forms.

Long, since all of it is about one tool of four places, which takes many seconds to build.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from supplecast.document.model import Document, parse_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.document.state import Entry
from supplecast.geometry import Frame, Vec, times
from supplecast.kernel import boolean, check, datums, measure, move, nearness, shape
from supplecast.molding import opening
from supplecast.molding.gauges import tool as gauges
from supplecast.tooling import mixing
from supplecast.tooling.resins import RESINS
from tests.conftest import STEPS, TRAY, part, tool

pytestmark = pytest.mark.slow

WINDOW: STEPS = [
    *TRAY,
    {"id": "w", "type": "sketch", "on": {"plane": "front"},
     "draw": [{"kind": "rectangle", "width": "16", "height": "8", "x": "0", "y": "-14"}]},
    {"id": "wx", "type": "extrude", "profile": {"sketch": "w"}, "distance": "60", "result": "cut"},
]  # fmt: skip
HALVES: STEPS = [
    {"id": "lnk", "type": "link", "part": {"document": "part"}},
    {"id": "shr", "type": "shrink", "shrinkage": "0.55 %"},
    {"id": "pln", "type": "parting line"},
    {"id": "blk", "type": "block", "around": "24", "below": "24", "above": "26"},
    {"id": "sur", "type": "parting surface"},
    {"id": "hlv", "type": "halves", "undercuts": "left to side openings"},
]
HELD: STEPS = [*HALVES, {"id": "sid", "type": "side opening"}]
SLIDE: STEPS = [*HALVES, {"id": "sid", "type": "side opening", "rides": "on the core half"}]
FOUR: STEPS = [
    *SLIDE,
    {"id": "ins", "type": "inserts", "columns": 2, "rows": 2},
    {"id": "run", "type": "runners"},
    {"id": "pin", "type": "register pins", "made": "of steel", "odd": "5"},
    {"id": "eje", "type": "ejectors", "count": 6},
    {"id": "ven", "type": "vents"},
    {"id": "coo", "type": "cooling"},
    {"id": "sho", "type": "trial shot"},
    {"id": "opn", "type": "opening check"},
]
UP: Vec = (0.0, 0.0, 1.0)


@pytest.fixture(scope="module")
def four() -> Built:
    made = built(tool(FOUR), part(WINDOW))
    assert made.ok, [(o.step, o.field, o.message) for o in made.outcomes if o.status != "ok"]
    return made


_MEMORIES: dict[str, dict[str, Memory]] = {}


def built(document: Document, source: Document) -> Built:
    """A tool and its part, built with what is remembered of others of the same part: most share their first steps."""
    memories = _MEMORIES.setdefault(source.model_dump_json(), {})
    project = Project({(d.id, None): d for d in (document, source)}, memories=memories)
    return rebuild(document, memories.setdefault(document.id, Memory()), outside=project)


def of_role(made: Built, *roles: str) -> list[Entry]:
    return [entry for entry in made.state.bodies.values() if entry.role in roles]


def said(steps: STEPS, of: STEPS = TRAY, **more: Any) -> Any:
    """The last step's outcome."""
    return built(tool(steps, **more), part(of)).outcomes[-1]


# --- side openings --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("steps", [HELD, SLIDE], ids=["in the cavity half", "on the core half"])
def test_a_slide_leaves_without_touching_the_part(steps: STEPS) -> None:
    """Swept by an independent engine, it shares nothing with what stands by: from the cavity half it leaves sideways first; on
    the core half it comes out of the cavity half with the part, past the wedge there, and then leaves part and core sideways.
    """
    slid = built(tool(steps), part(WINDOW))
    assert slid.ok, [(o.step, o.field, o.message) for o in slid.outcomes if o.status != "ok"]
    (slide,), (linked,), (cavity,), (core,) = (
        of_role(slid, *roles) for roles in (("slide", "core slide"), ("linked",), ("cavity",), ("core",))
    )
    assert all(check.faults(e.body.solid) == [] for e in (slide, cavity, core))
    assert slide.pull is not None and slide.pull == pytest.approx((0, -1, 0))
    rides = slide.role == "core slide"
    sideways = [opening.Meshed(e.body.solid) for e in (linked, core if rides else cavity)]

    def shares(way: Vec, by: float, others: list[opening.Meshed]) -> float:
        moved = opening.Meshed(move.moved(slide.body.solid, move.shift(times(way, by))).solid)
        return max(opening.shared(moved, other) for other in others)

    for by in (0.05, 0.5, 2.0, 8.0, 20.0):
        assert shares(slide.pull, by, sideways) < 0.05
        assert not rides or shares(UP, by, [opening.Meshed(cavity.body.solid)]) < 0.05
    assert shares(slide.pull, 2.0, [opening.Meshed((cavity if rides else core).body.solid)]) > 1.0  # the wedge holds it
    # Without its slide the cavity half would be caught; with it, nothing stands before it.
    assert opening.trapped(opening.Meshed(cavity.body.solid), (0, 0, -1), opening.standing(sideways[:1])).area == 0
    bodies = [e.body.solid for e in (slide, linked, cavity, core)]
    whole = 172.686 * 120.398 * 77.149
    assert sum(map(measure.volume, bodies)) == pytest.approx(whole, rel=1e-6)


def test_a_slide_frees_a_round_hole_from_the_side() -> None:
    """The hole turns over along its sides: both its halves, seen from neither side, leave with one slide."""
    draw = [{"kind": "circle", "diameter": "8", "x": "10", "y": "-14"}]
    made = built(
        tool([*SLIDE, {"id": "opn", "type": "opening check"}]), part([*WINDOW[:-2], {**WINDOW[-2], "draw": draw}, WINDOW[-1]])
    )
    assert made.ok, [(o.step, o.message) for o in made.outcomes if o.status != "ok"]
    (slide,), (linked,) = of_role(made, "core slide"), of_role(made, "linked")
    round_ = [f for f in range(slide.body.solid.face_count) if measure.surface_word(slide.body.solid, f) == "round"]
    assert len(round_) == 2
    meshes = opening.Meshed(linked.body.solid)
    for by in (0.5, 8.0):
        moved = move.moved(slide.body.solid, move.shift((0.0, -by, 0.0))).solid
        assert opening.shared(opening.Meshed(moved), meshes) < 0.1


def test_a_slide_leaves_aslant_through_a_round_wall() -> None:
    """Neither along an axis nor square to the block's side; proven by the opening check."""
    cup: STEPS = [
        {"id": "o", "type": "sketch", "draw": [{"kind": "circle", "diameter": "60", "x": "0", "y": "0"}]},
        {"id": "ext", "type": "extrude", "profile": {"sketch": "o"}, "distance": "27", "direction": "down", "draft": "2 deg"},
        {"id": "shl", "type": "shell", "wall": "2", "open": [{"face": "ext.start"}]},
        {"id": "w", "type": "sketch", "on": {"plane": "front", "tilt": "30", "about": "y"},
         "draw": [{"kind": "rectangle", "width": "12", "height": "8", "x": "0", "y": "-14"}]},
        {"id": "wx", "type": "extrude", "profile": {"sketch": "w"}, "distance": "60", "result": "cut"},
    ]  # fmt: skip
    made = built(tool([*SLIDE, {"id": "opn", "type": "opening check"}]), part(cup))
    assert made.ok, [(o.step, o.field, o.message) for o in made.outcomes if o.status != "ok"]
    (slide,) = of_role(made, "core slide")
    assert slide.pull == pytest.approx((0.5, -math.sqrt(0.75), 0))


def test_undercuts_are_refused_or_left_and_told() -> None:
    refused = built(tool([*HALVES[:5], {"id": "hlv", "type": "halves"}]), part(WINDOW)).outcomes[-1]
    assert refused.status == "failed" and refused.field == "undercuts" and len(refused.culprits) == 4
    left = built(tool(HALVES), part(WINDOW)).outcomes[-1]
    assert "until then the cavity half does not open" in left.flags[0].words
    caught = said([*HALVES, {"id": "opn", "type": "opening check"}], WINDOW)
    assert caught.status == "failed" and "would take the part along" in caught.message and caught.culprits


@pytest.mark.parametrize(
    ("fields", "of", "field", "words"),
    [
        ({}, TRAY, "faces", "has no undercut"),
        ({"way": "at an angle", "angle": "0"}, WINDOW, "angle", "comes free along"),
        ({"stroke": "1"}, WINDOW, "stroke", "does not free the undercut"),
        ({"lock": "60"}, WINDOW, "lock", "takes all of the slide"),
    ],
)
def test_side_openings_name_what_is_wrong(fields: dict[str, Any], of: STEPS, field: str, words: str) -> None:
    outcome = said([*HALVES, {"id": "sid", "type": "side opening", **fields}], of)
    assert outcome.status == "failed" and outcome.field == field and words in outcome.message


def test_a_line_that_crosses_itself_seen_along_the_pull_is_named() -> None:
    """A pad on a round wall leans back under itself when the wall is laid on its side."""
    badge = parse_document((Path(__file__).parent / "sheets/curved-badge.supple.json").read_bytes())
    steps = [HALVES[0], {"id": "lay", "type": "lay"}, *HALVES[1:5]]
    outcome = built(tool(steps), badge.model_copy(update={"id": "part"})).outcomes[-1]
    assert outcome.field == "land" and "Seen along the pull, the parting line crosses itself" in outcome.message


def test_an_undercut_inside_is_told_to_need_a_change_of_the_part() -> None:
    """A groove round the inside, which no straight slide can leave."""
    groove = [
        *TRAY,
        {"id": "g", "type": "sketch", "on": {"plane": "top", "offset": "-10"},
         "draw": [{"kind": "rectangle", "width": w, "height": h} for w, h in (("121.2", "69.2"), ("100", "50"))]},
        {"id": "gx", "type": "extrude", "profile": {"sketch": "g"}, "distance": "4", "direction": "down", "result": "cut"},
    ]  # fmt: skip
    made = built(tool(HALVES[:3]), part(groove))
    assert any("neither a side opening nor a lifter frees it" in flag.words for flag in made.outcomes[-1].flags)


# --- several places -------------------------------------------------------------------------------------------------


def test_four_places_fit_their_plates(four: Built) -> None:
    """Pockets are the inserts' boxes and the fit; nothing of the tool shares space, before and after it is bored."""
    cavities, cores = of_role(four, "cavity insert"), of_role(four, "core insert")
    assert len(cavities) == len(cores) == len(of_role(four, "core slide")) == len(of_role(four, "molded")) == 4
    plain = built(tool(FOUR[:8]), part(WINDOW))
    (plate,) = of_role(plain, "cavity")
    box = measure.box(plate.body.solid)
    insert = measure.corner_box(of_role(plain, "cavity insert")[0].body.solid).size
    pocket = (insert[0] + 0.04) * (insert[1] + 0.04) * insert[2]
    directions = measure.volume(plate.body.solid) - (math.prod(box.size) - 4 * pocket)
    assert -4 * 60 * 40 * 120 < directions < 0  # what the open ways of the slides take, and nothing else
    bodies = [opening.Meshed(e.body.solid) for e in four.state.bodies.values() if e.role not in ("shot", "feed", "ejector")]
    for number, first in enumerate(bodies):
        for second in bodies[number + 1 :]:
            if opening.near(first, second):
                assert opening.shared(first, second) < opening.allowed(first, second)
    assert all(check.faults(e.body.solid) == [] for e in (*cavities, *cores, *of_role(four, "cavity", "core", "feed")))


def test_a_round_and_deep_part_at_two_places() -> None:
    """Most of the core reaches through the parting plane, and the part has one corner only, on its seam."""
    cup: STEPS = [
        {"id": "o", "type": "sketch", "draw": [{"kind": "circle", "diameter": "40", "x": "0", "y": "0"}]},
        {"id": "ext", "type": "extrude", "profile": {"sketch": "o"}, "distance": "60", "direction": "down", "draft": "2 deg"},
        {"id": "shl", "type": "shell", "wall": "2", "open": [{"face": "ext.start"}]},
    ]
    steps = [{"id": "ins", "type": "inserts", "columns": 1, "rows": 2}, {"id": "eje", "type": "ejectors", "count": 4}]
    made = built(tool([*HALVES, *steps]), part(cup))
    assert made.ok, [(o.step, o.field, o.message) for o in made.outcomes if o.status != "ok"]
    steel = [opening.Meshed(e.body.solid) for e in of_role(made, "core", "cavity", "core insert", "cavity insert")]
    for number, first in enumerate(steel):
        for second in steel[number + 1 :]:
            assert opening.shared(first, second) < opening.allowed(first, second)
    (pins,) = of_role(made, "ejector")
    first, second = (opening.Meshed(e.body.solid) for e in of_role(made, "molded"))
    assert opening.shared(opening.Meshed(pins.body.solid), first) < opening.allowed(first, second)
    touching = [nearness.between(pins.body.solid, e.body.solid) for e in of_role(made, "molded")]
    assert touching == pytest.approx([0, 0], abs=1e-6)


def test_rows_are_turned_or_mirrored_and_families_share_a_mold() -> None:
    turned, mirrored = (
        built(tool([*SLIDE, {"id": "ins", "type": "inserts", "columns": 1, "rows": 2, "second": second}]), part(WINDOW))
        for second in ("turned round", "mirrored")
    )
    directions = [[np.round(e.pull, 6).tolist() for e in of_role(made, "core slide")] for made in (turned, mirrored)]
    assert directions == [[[0, -1, 0], [0, 1, 0]]] * 2
    volumes = {round(measure.volume(e.body.solid), 3) for e in of_role(mirrored, "cavity insert")}
    assert len(volumes) == 1


def test_two_parts_share_a_family_mold() -> None:
    """A second link with its own line, block and halves; the places are taken in turn, each part in its own steel."""
    names = {"lnk": "lnk2", "blk": "blk2"}
    second: STEPS = [{**step, "id": names.get(step["id"], f"{step['id']}2")} for step in HALVES]
    for step in second[1:]:
        step["part"] = "lnk2"
    for step in second[4:]:
        step["block"] = "blk2"
    second[1]["shrinkage"] = "0.7 %"
    inserts = {"id": "ins", "type": "inserts", "columns": 2, "rows": 1}
    made = built(tool([*HALVES, *second, inserts, {"id": "opn", "type": "opening check"}]), part(TRAY))
    assert made.ok, [(o.step, o.message) for o in made.outcomes if o.status != "ok"]
    sizes = sorted(measure.box(e.body.solid).size[0] for e in of_role(made, "molded"))
    assert sizes == pytest.approx([124 / 0.9945, 124 / 0.993], abs=1e-4)
    for role in ("cavity insert", "core insert"):
        assert len(of_role(made, role)) == 2


def test_a_block_over_an_outline() -> None:
    outline = {"id": "o", "type": "sketch", "draw": [{"kind": "circle", "diameter": "220"}]}
    block = {"id": "blk", "type": "block", "sized": "by an outline", "outline": "o", "below": "20", "above": "25"}
    made = built(tool([*HALVES[:3], outline, block, *HALVES[4:], {"id": "opn", "type": "opening check"}]), part(TRAY))
    assert made.ok, [(o.step, o.message) for o in made.outcomes if o.status != "ok"]
    halves = [e.body.solid for e in of_role(made, "core", "cavity", "linked")]
    height = 27 / 0.9945 + 45
    assert sum(map(measure.volume, halves)) == pytest.approx(math.pi * 110**2 * height, rel=1e-6)
    small = said([*HALVES[:3], {**outline, "draw": [{"kind": "circle", "diameter": "90"}]}, block, HALVES[4]])
    assert small.status == "failed" and "past the block" in small.message
    assert said([*HALVES[:3], {**block, "outline": None}]).field == "outline"


def test_runners_take_out_of_the_steel_what_they_are(four: Built) -> None:
    """The steel lost to the runners weighs what the feed does, but for what lies in the fit of the inserts."""
    before = built(tool(FOUR[:8]), part(WINDOW))
    after = built(tool(FOUR[:9]), part(WINDOW))
    steel = ("cavity", "core", "cavity insert", "core insert")
    lost = sum(measure.volume(e.body.solid) for e in of_role(before, *steel)) - sum(
        measure.volume(e.body.solid) for e in of_role(after, *steel)
    )
    (feed,) = of_role(after, "feed")
    volume = measure.volume(feed.body.solid)
    assert 0 < volume - lost < 0.005 * volume
    outcome = after.outcomes[-1]
    assert outcome.figures["balance"] == pytest.approx(1) and "balanced" in outcome.notes[0]
    (shot,) = of_role(four, "shot")
    parts = sum(measure.volume(e.body.solid) for e in of_role(four, "molded"))
    assert measure.volume(shot.body.solid) == pytest.approx(parts + volume, rel=1e-6)


@pytest.mark.parametrize(
    "fields", [{"section": "trapezoid", "gate": "fan"}, {"gate": "submarine"}, {"width": "8", "wells": "without wells"}]
)
def test_kinds_of_runners_and_gates(fields: dict[str, Any]) -> None:
    made = built(tool([*FOUR[:8], {"id": "run", "type": "runners", **fields}]), part(WINDOW))
    assert made.ok, made.outcomes[-1].message
    (feed,) = of_role(made, "feed")
    assert check.faults(feed.body.solid) == []
    touched = [e for e in of_role(made, "molded") if nearness.between(feed.body.solid, e.body.solid) < 1e-6]
    assert len(touched) == 4


@pytest.mark.parametrize(
    ("steps", "field", "words"),
    [
        ([*HALVES, {"id": "run", "type": "runners"}], "x", "stands in"),
        ([*FOUR[:8], {"id": "run", "type": "runners", "x": "-100", "y": "-80"}], "x", "stands in"),
        ([*SLIDE, {"id": "ins", "type": "inserts", "columns": 8, "rows": 8}], "columns", "At most 16"),
        ([*SLIDE, {"id": "ins", "type": "inserts", "between": "0"}], "between", "run into each other"),
    ],
)
def test_places_and_runners_name_what_is_wrong(steps: STEPS, field: str, words: str) -> None:
    outcome = said(steps, WINDOW)
    assert outcome.status == "failed" and outcome.field == field, outcome
    assert words in f"{outcome.message} {outcome.hint}"


# --- pins, vents, bores ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("section", ["full round", "trapezoid"])
def test_a_runner_ends_its_land_before_the_wall(section: str) -> None:
    """Its round or square end too: only the gate, which is that much thinner, opens into the cavity."""
    made = built(
        tool(
            [*HALVES, {"id": "run", "type": "runners", "section": section, "x": "100", "land": "1.2"}],
        ),
        part(TRAY),
    )
    (feed,), (molded,) = of_role(made, "feed"), of_role(made, "linked")
    runner = tuple(f for f, tags in enumerate(feed.body.tags) if "run.runner" in tags)
    assert _to_faces(molded.body.solid, feed.body.solid, runner) == pytest.approx(1.2, abs=0.05)
    assert nearness.between(molded.body.solid, feed.body.solid) == pytest.approx(0, abs=1e-6)


def test_a_gate_opens_as_deep_and_wide_as_its_wall_asks() -> None:
    """An edge gate 0.6 of the wall deep, three times as wide as that; a submarine gate half a wall across (common practice).

    The wall of 2.2 mm leans by 1.5° where the gate opens into it.
    """
    made = built(tool([*HALVES, {"id": "run", "type": "runners", "x": "100"}]), part(TRAY))
    (feed,) = of_role(made, "feed")
    (opening,) = [f for f, tags in enumerate(feed.body.tags) if any(tag.startswith("lnk.") for tag in tags)]
    opened = measure.face_area(feed.body.solid, opening)
    assert opened == pytest.approx(1.32 * 4.0 / math.cos(math.radians(1.5)), rel=0.01)
    below = said([*HALVES, {"id": "run", "type": "runners", "x": "100", "gate": "submarine"}])
    assert "Gates 1.1 × 1.1 mm" in " ".join(below.notes)


def test_a_gate_too_small_for_its_shot_is_told() -> None:
    thin = {"id": "run", "type": "runners", "x": "100", "gate_width": "1", "gate_depth": "0.5"}
    (flag,) = said([*HALVES, thin]).flags
    assert flag.field == "gate_width" and "widen or deepen the gate" in flag.words
    wide = said([*HALVES, {"id": "run", "type": "runners", "x": "100", "gate": "fan", "gate_depth": "0.5"}])
    assert not wide.flags and "40,0" in " ".join(wide.notes)


@pytest.mark.parametrize(("shape", "one"), [
    ("cones", math.pi * 8 / 3 * (16 + (4 - 8 * math.tan(math.radians(10))) ** 2 + 4 * (4 - 8 * math.tan(math.radians(10))))),
    ("bosses", 8 / 3 * (64 + (8 - 16 * math.tan(math.radians(10))) ** 2 + 8 * (8 - 16 * math.tan(math.radians(10))))),
])  # fmt: skip
def test_cones_and_bosses_register_too(shape: str, one: float) -> None:
    pins = {"id": "pin", "type": "register pins", "shape": shape, "diameter": "8", "height": "8", "gap": "0.1", "odd": "4"}
    before, after = (built(tool([*HALVES, *more]), part(TRAY)) for more in ([], [pins]))
    (core0,), (core1,) = of_role(before, "core"), of_role(after, "core")
    assert measure.volume(core1.body.solid) - measure.volume(core0.body.solid) == pytest.approx(4 * one, rel=1e-6)
    (cavity,) = of_role(after, "cavity")
    # Square to the leaning sides, hole and pin are the gap apart.
    assert nearness.between(core1.body.solid, cavity.body.solid) == 0  # they meet in the parting plane
    assert after.outcomes[-1].figures["register_clearance"] > 5
    # Turned by half, the odd one does not find its hole.
    turned = move.moved(core1.body.solid, move.turn(_middle(core1), math.pi)).solid
    assert opening.shared(opening.Meshed(turned), opening.Meshed(cavity.body.solid)) > 20


def _middle(entry: Entry) -> Any:
    from supplecast.geometry import Axis

    return Axis(measure.box(entry.body.solid).centre, UP)


def test_ejectors_are_mirrored_bored_and_clear() -> None:
    """Bores in closed form: guide and relief, each from the floor of the part to the back of the core."""
    pins = {"id": "eje", "type": "ejectors", "count": 4, "diameter": "5", "guide": "15", "gap": "0.02", "relief": "0.5"}
    before, after = (built(tool([*HALVES, *more]), part(TRAY)) for more in ([], [pins]))
    (core0,), (core1,) = of_role(before, "core"), of_role(after, "core")
    floor = measure.box(of_role(before, "linked")[0].body.solid).low[2] + 2.2 * (1 / (1 - 0.0055))
    deep = measure.box(core0.body.solid).high[2] - floor
    bores = 4 * math.pi * (2.52**2 * 15 + 3.02**2 * (deep - 15))
    lost = measure.volume(core0.body.solid) - measure.volume(core1.body.solid)
    assert lost == pytest.approx(bores, rel=1e-6)
    note = after.outcomes[-1].notes[0]
    places = np.array([[float(c) for c in word.split(" at ")[1].split(", ")] for word in _pins(note)])
    assert np.abs(places.sum(axis=0)).max() < 2.0  # mirrored about both axes, to the raster
    moved = built(tool([*HALVES, {**pins, "moved": [{"number": 1, "x": "10", "y": "0"}]}]), part(TRAY))
    assert "1 at 10, 0" in moved.outcomes[-1].notes[0]
    off = said([*HALVES, {**pins, "moved": [{"number": 1, "x": "100", "y": "0"}]}])
    assert off.field == "moved" and "does not stand on the part" in off.message


def _pins(note: str) -> list[str]:
    words = note.removeprefix("On the first part: ").split(". ")[0].split(", ")
    return [f"{words[k]}, {words[k + 1]}" for k in range(0, len(words), 2)]


def test_cooling_keeps_its_distances(four: Built) -> None:
    """Two diameters from the flat faces of the parts, exactly; and off pins and feed by what was asked."""
    outcome = four.outcome("coo")
    assert (
        min(outcome.figures["cooling_core"], outcome.figures["cooling_cavity"]) >= 8 - 1e-6
    )  # moved out of a joint: a diameter
    assert not any(flag.field == "clear" for flag in outcome.flags)
    alone = built(tool([*HALVES, {"id": "coo", "type": "cooling", "depth": "6", "sides": "the core side"}]), part(TRAY))
    before = built(tool(HALVES), part(TRAY))
    (core0,), (core1,) = of_role(before, "core"), of_role(alone, "core")
    length = measure.box(core0.body.solid).size[0]
    lost = measure.volume(core0.body.solid) - measure.volume(core1.body.solid)
    assert lost / (math.pi * 16 * length) == pytest.approx(round(lost / (math.pi * 16 * length)), rel=1e-9)
    too_deep = said([*HALVES, {"id": "coo", "type": "cooling", "depth": "40"}])
    assert too_deep.status == "failed" and too_deep.field == "depth"


def test_no_bore_runs_along_a_joint(four: Built) -> None:
    """Two diameters under the part would be just where the inserts end: half a groove in the insert, half in the plate."""
    for side, sense in (("core", 1), ("cavity", -1)):
        backs = {round(max(sense * z for z in (b.low[2], b.high[2])), 6)
                 for b in (measure.corner_box(e.body.solid) for e in of_role(four, f"{side} insert"))}  # fmt: skip
        levels = set()
        for entry in (*of_role(four, side), *of_role(four, f"{side} insert")):
            for face, tags in enumerate(entry.body.tags):
                if any(tag.startswith("coo.") for tag in tags):
                    levels.add(round(sense * datums.face_axis(entry.body.solid, face).point[2], 6))
        assert len(backs) == 1 and levels
        assert all(abs(level - back) >= 4 + 4 - 1e-6 for level in levels for back in backs), (side, levels, backs)
    assert "seals at the inserts' sides" in four.outcome("coo").notes[-1]
    ends = max(measure.box(e.body.solid).high[2] for e in of_role(four, "molded"))
    back = max(measure.corner_box(e.body.solid).high[2] for e in of_role(four, "core insert"))
    typed = {"id": "coo", "type": "cooling", "depth": f"{back - ends - 4}", "sides": "the core side"}
    refused = said([*FOUR[:10], typed], WINDOW)
    assert (refused.status, refused.field) == ("failed", "depth") and "along the backs of the inserts" in refused.message


def test_pins_left_blank_guide_before_the_core_does_and_short_ones_are_told_of() -> None:
    """A tray whose core stands 24 mm: pins of 12 mm guided half the way. Sizes by the block, heights by the core."""
    blank = {"id": "pin", "type": "register pins", "diameter": "", "height": "", "inset": ""}
    made = built(tool([*HALVES, blank]), part(TRAY))
    (core,) = of_role(made, "core")
    pins = [face for face, tags in enumerate(core.body.tags) if any(tag.startswith("pin.") for tag in tags)]
    (plain,) = of_role(built(tool(HALVES), part(TRAY)), "core")
    stands = -measure.box(plain.body.solid).low[2]
    reach = min(measure.face_box(core.body.solid, face).low[2] for face in pins)
    assert stands > 6 and reach <= -stands and not made.outcome("pin").flags
    short = built(tool([*HALVES, {"id": "pin", "type": "register pins", "height": "6"}]), part(TRAY)).outcome("pin")
    assert any(flag.field == "height" and "comes in before pins of 6 mm guide it" in flag.words for flag in short.flags)


def test_thin_runners_wide_gates_and_thin_pins_do_not_pass_in_silence(four: Built) -> None:
    """A gate that follows its rules is no wider than the runner it comes from; what is typed against them is cautioned."""
    runner, gate = (
        re.search(rf"{word} ([\d.]+)", note)
        for word, note in zip(("Runners", "Gates"), four.outcome("run").notes, strict=False)
    )
    assert runner and gate and 4.8 <= float(runner[1]) >= float(gate[1]) and not four.outcome("run").flags
    typed = {"id": "run", "type": "runners", "width": "3", "gate_width": "4"}
    words = {flag.field: flag.words for flag in said([*FOUR[:8], typed], WINDOW).flags}
    assert "freezes before the parts are full" in words["width"] and "wider than its runner" in words["gate_width"]
    thin = said([*HALVES, {"id": "eje", "type": "ejectors", "count": 4, "diameter": "0.5"}])
    assert any("bend and break" in flag.words for flag in thin.flags)


def test_draft_is_asked_along_the_way_on_which_a_face_is_formed() -> None:
    """The window's four sides stand along the slide's way, not along the pull, and no other face does."""
    slid = built(tool(SLIDE), part(WINDOW))
    assert not any("along the pull without draft" in flag.words for flag in slid.outcome("pln").flags)
    (flag,) = (flag for flag in slid.outcome("sid").flags if "along the slide's way" in flag.words)
    assert flag.words.startswith("4 faces")


def test_vents_are_shallow_and_far_from_the_gate(four: Built) -> None:
    outcome = four.outcome("ven")
    assert outcome.figures["vents"] == 16 and "0.04 mm deep" in outcome.notes[0]
    before, after = (built(tool(FOUR[:count]), part(WINDOW)) for count in (11, 12))
    lost = [measure.volume(a.body.solid) - measure.volume(b.body.solid)
            for a, b in zip(of_role(before, "cavity insert"), of_role(after, "cavity insert"), strict=True)]  # fmt: skip
    land = 4 * 6 * 1.5 * 0.04
    relief = 0.4 * 6 * 4 * 22.5  # each from its land out to the insert's side, 24 mm off the part
    assert all(x == pytest.approx(land + relief, rel=0.35) for x in lost)
    assert said([*FOUR[:11], {"id": "ven", "type": "vents", "depth": "0.5"}], WINDOW).field == "depth"
    assert "Without a feed" in said([*HALVES, {"id": "ven", "type": "vents"}]).message


def test_no_vent_runs_into_the_next_place() -> None:
    """What is cut deeper than a vent may be keeps its land's length from every part."""
    vents = built(tool(FOUR[:12]), part(WINDOW))
    for entry in of_role(vents, "cavity insert", "cavity"):
        deep = tuple(f for f, tags in enumerate(entry.body.tags) if any(_is_relief(tag) for tag in tags))
        least = min(_to_faces(molded.body.solid, entry.body.solid, deep) for molded in of_role(vents, "molded"))
        assert deep and least > 1.2


def _to_faces(body: shape.Solid, other: shape.Solid, faces: Sequence[int]) -> float:
    """The least distance from a body to some faces of another by the kernel's own search among all of them, mm."""
    return float(BRepExtrema_DistShapeShape(body.shape, shape.faces_of(other, faces)).Value())


def _is_relief(tag: str) -> bool:
    return tag.startswith("ven.") and int(tag.rsplit("[", 1)[-1].rstrip("]")) % 2 == 0


# --- laying, shrinking, casting -------------------------------------------------------------------------------------


def test_laying_turns_the_part_to_the_pull() -> None:
    tipped = [*TRAY, {"id": "mv", "type": "move", "body": "ext", "how": "turned about", "axis": {"axis": "x"}, "angle": "90"}]
    for lay in ({"by": "as suggested"}, {"by": "a face", "face": [{"face": "lnk.of{ext.start}"}]}):
        made = built(tool([HALVES[0], {"id": "lay", "type": "lay", **lay}]), part(tipped))
        assert made.ok, made.outcomes[-1].message
        size = measure.box(of_role(made, "linked")[0].body.solid).size
        assert size == pytest.approx((124, 72, 27), abs=1e-6)


def test_shrinkage_by_axis_scales_each_way() -> None:
    made = built(
        tool([HALVES[0], {"id": "shr", "type": "shrink", "spread": "by axis", "x": "0.4 %", "y": "0.5 %", "z": "0.6 %"}]),
        part(TRAY),
    )
    size = measure.box(of_role(made, "linked")[0].body.solid).size
    assert size == pytest.approx((124 / 0.996, 72 / 0.995, 27 / 0.994), abs=1e-4)
    even = built(tool(HALVES[:2]), part(TRAY)).outcomes[-1]
    assert "Part 124 × 72 × 27, cavity 124.686 × 72.398 × 27.149 mm." in even.notes


def test_amounts_to_mix() -> None:
    assert (a := mixing.amounts(100_000, 1.1, "100:10", 0.1)).whole == pytest.approx(121) and a.a == pytest.approx(110)
    assert mixing.amounts(1000, 2.0, "", 0.0).b == 0
    wrong = said([HALVES[0], {"id": "mix", "type": "mix", "ratio": "ten"}])
    assert wrong.field == "ratio" and "100:10" in wrong.hint
    box = {"id": "cb", "type": "casting box", "margin": "10", "over": "8", "wall": "3", "pieces": "three pieces"}
    made = built(tool([HALVES[0], box]), part(TRAY))
    pieces = [e.body.solid for e in of_role(made, "insert")]
    inner = 144 * 92 * 35
    assert sum(map(measure.volume, pieces)) == pytest.approx(150 * 98 * 38 - inner) and len(pieces) == 3
    poured = (inner - measure.volume(of_role(made, "linked")[0].body.solid)) / 1000 * 1.1 * 1.1
    assert made.outcomes[-1].figures["pour_g"] == pytest.approx(poured)


def test_funnel_riser_and_pin_gate(tray: Any) -> None:
    pin = {"id": "f", "type": "feed", "kind": "pin gate", "x": "20", "y": "0", "outer": "5", "inner": "3", "neck": "1"}
    made = built(tool([*HALVES, pin]), part(TRAY))
    assert made.ok, made.outcomes[-1].message
    (feed,) = of_role(made, "feed")
    meets = boolean.common(feed.body.solid, [of_role(made, "linked")[0].body.solid])
    assert meets == [] and nearness.between(feed.body.solid, of_role(made, "linked")[0].body.solid) == 0
    riser = said([*HALVES, {**pin, "kind": "riser", "outer": "2", "inner": "1.6"}])
    assert riser.status == "ok" and float(riser.notes[0].split()[-2]) < 0.2


# --- following the part, and what it costs --------------------------------------------------------------------------


def test_a_changed_pin_size_builds_only_what_follows(four: Built) -> None:
    built(tool(FOUR), part(WINDOW))
    again = built(tool([{**step, "count": 4} if step["id"] == "eje" else step for step in FOUR]), part(WINDOW))
    fresh = [o.step for o in again.outcomes if not o.reused]
    more = built(tool([*FOUR, {"id": "mix", "type": "mix"}]), part(WINDOW))  # nor does a step at the end touch those before it
    assert [o.step for o in more.outcomes if not o.reused] == ["mix"]
    assert fresh[0] == "eje" and set(fresh) <= {"eje", "ven", "coo", "sho", "opn"}


def test_the_gauges_of_a_tool(four: Built) -> None:
    """The shadow of four parts and their feed: four times the outline of the tray, less the window's nothing, and the
    runners.
    """
    parts = [e.body.solid for e in of_role(four, "molded")]
    feeds = [e.body.solid for e in of_role(four, "feed")]
    asked = gauges.ToolAsked(parts, feeds, [], [e.body.solid for e in of_role(four, "core", "cavity")], UP, RESINS["ABS"])
    by_id = {gauge.id: gauge for gauge in gauges.gauges(asked)}
    assert list(by_id) == ["opens", "press", "shot", "cycle", "steel", "price"]
    outline = (124 * 72 - (4 - math.pi) * 11**2) / 0.9945**2
    alone = gauges.ToolAsked(parts, [], [], [], UP, RESINS["ABS"])
    assert alone.area == pytest.approx(4 * outline, rel=2e-3)
    assert asked.area > alone.area and by_id["press"].verdict.startswith("on")
    assert (
        gauges.ToolAsked([], [], [], [], UP, None).area == 0 and gauges.gauges(gauges.ToolAsked([], [], [], [], UP, None)) == []
    )
    cast = gauges.gauges(gauges.ToolAsked(parts[:1], [], [], [], UP, RESINS["PU casting"]))
    assert [g.verdict for g in cast][1] == "cast by hand"


def test_a_tool_with_an_undercut_is_told_by_its_gauge() -> None:
    made = built(tool(HALVES), part(WINDOW))
    (cavity,) = of_role(made, "cavity")
    formed = tuple(f for f, tags in enumerate(cavity.body.tags) if any("cavity side" in t for t in tags))
    steel = gauges.Steel(cavity.id, cavity.name, cavity.body.solid, formed, (0, 0, -1))
    asked = gauges.ToolAsked([of_role(made, "linked")[0].body.solid], [], [steel], [], UP, RESINS["ABS"])
    gauge = gauges.opens(asked)
    assert gauge.state == "fault" and gauge.offenders and gauge.offenders[0].body == cavity.id


def test_parts_that_are_surfaces_are_refused() -> None:
    sheet: STEPS = [
        {"id": "s", "type": "sketch", "draw": [{"kind": "rectangle", "width": "40", "height": "30"}]},
        {"id": "e", "type": "extrude", "profile": {"sketch": "s"}, "distance": "10", "fill": "as a surface"},
    ]
    made = built(tool(HALVES[:3]), part(sheet))
    failed = next(o for o in made.outcomes if o.status == "failed")
    assert failed.message and failed.step in ("lnk", "shr", "pln")


def test_a_frame_of_a_plane_lies_as_the_places_are_typed() -> None:
    level = Frame.lying((0.0, 0.0, 5.0), UP)
    assert level.flat((3.0, 4.0, 9.0)) == pytest.approx((3.0, 4.0))


def test_what_comes_in_the_wrong_order_is_said_and_nothing_shares_space_unseen() -> None:
    """A casting box round the part of a tool that has halves stands in them; a feed made later is in no mix and no shot."""
    box = {"id": "cb", "type": "casting box", "margin": "10", "over": "8", "wall": "3"}
    check_ = {"id": "opn", "type": "opening check"}
    made = built(tool([*HALVES, box, check_]), part(TRAY))
    assert any("stands where" in flag.words for flag in made.outcome("cb").flags)
    failed = made.outcome("opn")
    assert failed.status == "failed" and "Casting box" in failed.message and "share" in failed.message
    feed = {"id": "fee", "type": "feed", "kind": "sprue", "x": "0", "y": "0"}
    late = built(tool([*HALVES, {"id": "mix", "type": "mix"}, {"id": "sho", "type": "trial shot"}, feed]), part(TRAY))
    assert any("not in the mix" in flag.words for flag in late.outcome("mix").flags)
    assert "made below this step" in late.outcome("sho").message
    early = built(tool([*HALVES, feed, {"id": "mix", "type": "mix"}, {"id": "sho", "type": "trial shot"}]), part(TRAY))
    assert early.ok and not early.outcome("mix").flags


def test_each_place_is_vented_where_it_fills_last_itself() -> None:
    """Two trays that mirror themselves, fed from between them: what is last in the one is first in a copy of it."""
    steps = [
        *HALVES[:5],
        {"id": "hlv", "type": "halves"},
        {"id": "ins", "type": "inserts", "columns": 2, "rows": 1, "second": "as the first"},
        {"id": "run", "type": "runners"},
        {"id": "ven", "type": "vents", "count": 2},
    ]
    made = built(tool(steps), part(TRAY))
    assert made.ok, [(o.step, o.message) for o in made.outcomes if o.message]
    middles = [measure.mass(e.body.solid).centroid[0] for e in of_role(made, "molded")]
    assert len(middles) == 2 and middles[0] * middles[1] < 0
    for insert, middle in zip(of_role(made, "cavity insert"), middles, strict=True):
        lands = [measure.face_middle(insert.body.solid, face)[0] for face, tags in enumerate(insert.body.tags)
                 if any(tag.startswith("ven.") for tag in tags)]  # fmt: skip
        assert lands and abs(sum(lands) / len(lands)) > abs(middle), (lands, middle)


def test_a_slide_that_is_still_in_keeps_the_part_from_its_ejectors() -> None:
    """With a wedge of the core half the slide is held until that has left: the part stays with it. Drawn first, it does not."""
    ejectors, opening_ = {"id": "eje", "type": "ejectors", "count": 4}, {"id": "opn", "type": "opening check"}
    held = said([*HELD, ejectors, opening_], WINDOW)
    assert held.status == "failed" and "away from their ejectors" in held.message and "ride on the core half" in held.hint
    by_hand = said([*HELD, opening_], WINDOW)  # without ejectors the part is taken out by hand
    assert by_hand.status == "ok" and "core side, 1 slide, cavity side" in by_hand.notes[0] and not by_hand.flags
    for slide, order in (({"lock": "0"}, "1 slide by cylinders, core side, cavity side"),
                         ({"rides": "on the core half"}, "core side with the parts, 1 slide on it")):  # fmt: skip
        free = said([*HALVES, {"id": "sid", "type": "side opening", **slide}, ejectors, opening_], WINDOW)
        assert free.status == "ok" and order in free.notes[0] and not free.flags
        assert "stay on the core side" in free.notes[1]


def test_a_part_turned_over_stays_away_from_its_ejectors() -> None:
    """A tray laid with its hollow to the cavity side shrinks onto that: pins on the core side never reach it."""
    ejectors, opening_ = {"id": "eje", "type": "ejectors", "count": 4}, {"id": "opn", "type": "opening check"}
    over = [{"id": "lay", "type": "lay", "by": "an edge or axis", "axis": {"axis": "z"}, "facing": "back"}]
    right = said([*HALVES, ejectors, opening_])
    wrong = said([HALVES[0], *over, *HALVES[1:], opening_])
    assert right.status == "ok" and "stay on the core side" in right.notes[1], (right.message, right.notes)
    assert wrong.status == "ok" and "stay in the cavity half" in wrong.notes[1]
