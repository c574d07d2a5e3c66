"""Build steps: what each makes, in closed form, and what each says when it cannot."""

from __future__ import annotations

import math
from typing import Any

import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.document.rebuild import Built
from supplecast.errors import DocumentError
from supplecast.kernel import boolean, measure, probing
from supplecast.tooling.shrinkage import cavity_factor
from tests.conftest import MOLD, TRAY, bodies, built, circle, extrude, part, rectangle, tool
from tests.referee.meshes import manifold


def volume(document: Document, body: str) -> float:
    return measure.volume(bodies(document)[body].body.solid)


BOX = [rectangle("s1", "40 mm", "30 mm"), extrude("e1", "s1", "20 mm")]


def test_extrude_add_cut_and_through_all() -> None:
    top = {"face": "e1.end"}
    added = part([*BOX, circle("s2", "10", on=top), extrude("e2", "s2", "5", result="add")])
    assert volume(added, "e1") == pytest.approx(24000 + 125 * math.pi, rel=1e-9)
    cut = part([*BOX, circle("s2", "10", on=top), extrude("e2", "s2", "5", result="cut", direction="down")])
    assert volume(cut, "e1") == pytest.approx(24000 - 125 * math.pi, rel=1e-9)
    through = part([*BOX, circle("s2", "10"), extrude("e2", "s2", "1", result="cut", extent="through all")])
    assert volume(through, "e1") == pytest.approx(24000 - 500 * math.pi, rel=1e-9)


def test_extrude_down_and_both_ways() -> None:
    down = bodies(part([rectangle("s1", "40", "30"), extrude("e1", "s1", "20", direction="down")]))["e1"]
    assert measure.box(down.body.solid).low[2] == pytest.approx(-20)
    both = bodies(part([rectangle("s1", "40", "30"), extrude("e1", "s1", "20", direction="both ways")]))["e1"]
    assert measure.box(both.body.solid).low[2] == pytest.approx(-10)


def test_several_areas_make_several_bodies() -> None:
    sketch = {"id": "s1", "type": "sketch", "draw": [{"kind": "circle", "diameter": "4", "x": x} for x in ("0", "10")]}
    made = bodies(part([sketch, extrude("e1", "s1", "5")]))
    assert sorted(made) == ["e1.f1_C1", "e1.f2_C1"]


@pytest.mark.parametrize(("plane", "axis"), [("top", 2), ("front", 1), ("side", 0)])
def test_standard_planes_and_offsets(plane: str, axis: int) -> None:
    made = bodies(part([rectangle("s1", "40", "30", on={"plane": plane, "offset": "7 mm"}), extrude("e1", "s1", "20")]))["e1"]
    box = measure.box(made.body.solid)
    low, high = box.low[axis], box.high[axis]
    assert sorted((abs(low), abs(high))) == pytest.approx([7, 27])


def test_union_and_subtract_keep_or_use_up_the_tool() -> None:
    second = [circle("s2", "10"), extrude("e2", "s2", "30")]
    joined = bodies(part([*BOX, *second, {"id": "u", "type": "union", "body": "e1", "tools": ["e2"]}]))
    assert list(joined) == ["e1"]
    assert measure.volume(joined["e1"].body.solid) == pytest.approx(24000 + 250 * math.pi, rel=1e-9)
    cut = bodies(part([*BOX, *second, {"id": "u", "type": "subtract", "body": "e1", "tools": ["e2"], "keep": "keep"}]))
    assert sorted(cut) == ["e1", "e2"]
    assert measure.volume(cut["e1"].body.solid) == pytest.approx(24000 - 500 * math.pi, rel=1e-9)


def test_a_document_in_inches_is_25_4_times_larger() -> None:
    document = part([rectangle("s1", "2", "1"), extrude("e1", "s1", "0.5")], unit="in")
    assert volume(document, "e1") == pytest.approx(25.4**3, rel=1e-12)


def clearance_volume(radius: float, height: float, gap: float, chamfer: float) -> float:
    """Space in mm³ left round one pin in its hole: hole less cylinder less chamfer frustum."""
    hole = math.pi * (radius + gap) ** 2 * (height + gap)
    tip = radius - chamfer
    frustum = math.pi * chamfer / 3 * (radius**2 + radius * tip + tip**2)
    return hole - math.pi * radius**2 * (height - chamfer) - frustum


# --- the mold ----------------------------------------------------------------------------------------------------


def test_shrinkage_enlarges_by_one_over_one_minus_s(tray: Document) -> None:
    """S is lost from the cavity's size (definition; ISO 294-4 measures it), so the cavity is 1/(1−S) of the part."""
    assert cavity_factor(0.0055) * (1 - 0.0055) == pytest.approx(1, rel=1e-15)
    made = bodies(tool(MOLD[:2]), tray)["lnk"]
    plain = bodies(tray)["ext"]
    ratio = measure.volume(made.body.solid) / measure.volume(plain.body.solid)
    assert ratio == pytest.approx((1 / (1 - 0.0055)) ** 3, rel=1e-12)
    about = bodies(tool([MOLD[0], {**MOLD[1], "about": "centroid"}]), tray)["lnk"]
    assert measure.mass(about.body.solid).centroid == pytest.approx(measure.mass(plain.body.solid).centroid, abs=1e-8)


def test_halves_and_part_add_up_to_the_block(tray: Document) -> None:
    cut = bodies(tool(MOLD[:5]), tray)
    whole = bodies(tool(MOLD[:3]), tray)["blk"]
    total = sum(measure.volume(cut[name].body.solid) for name in ("lnk", "spl.cavity", "spl.core"))
    assert total == pytest.approx(measure.volume(whole.body.solid), rel=1e-9)


def test_the_plug_inside_the_tray_belongs_to_the_core(tray: Document) -> None:
    cut = bodies(tool(MOLD[:5]), tray)
    core = measure.box(cut["spl.core"].body.solid)
    assert core.low[2] < -20 and core.high[2] == pytest.approx(26, abs=1e-6)
    assert measure.box(cut["spl.cavity"].body.solid).high[2] == pytest.approx(0, abs=1e-9)


def test_a_hole_through_the_floor_is_pointed_out(tray: Document) -> None:
    """The plug inside then hangs on the cavity, and the core is a plain plate."""
    hole = [circle("h", "20", on={"face": "ext.end"}), extrude("hc", "h", "5", direction="both ways", result="cut")]
    outcome = built(tool(MOLD[:5]), part([*TRAY, *hole])).outcome("spl")
    assert outcome.status == "ok" and "core half is plain" in outcome.flags[0].words
    assert built(tool(MOLD[:5]), tray).outcome("spl").flags == ()


def test_halves_do_not_overlap_and_all_is_watertight(mold: Built) -> None:
    made = mold.state.bodies
    assert boolean.common(made["spl.core"].body.solid, [made["spl.cavity"].body.solid]) == []
    solids = {name: manifold(entry.body.solid, 0.005, 0.05) for name, entry in made.items()}
    assert (solids["spl.core"] ^ solids["spl.cavity"]).volume() == pytest.approx(0, abs=1e-6)
    for name, body in solids.items():
        assert body.volume() == pytest.approx(measure.volume(made[name].body.solid), rel=5e-4)


def test_pins_and_holes_leave_exactly_the_stated_clearance(tray: Document) -> None:
    before, after = (bodies(tool(MOLD[:n]), tray) for n in (5, 6))

    def total(made: Any) -> float:
        return sum(measure.volume(made[name].body.solid) for name in ("spl.core", "spl.cavity"))

    assert total(before) - total(after) == pytest.approx(4 * clearance_volume(4, 12, 0.1, 0.8), rel=1e-6)
    core, cavity = after["spl.core"].body, after["spl.cavity"].body
    sides = [f for f, tags in enumerate(core.tags) if any(t.startswith("pin.side[") and "tip" not in t for t in tags)]
    holes = tuple(f for f, tags in enumerate(cavity.tags) if any(t.startswith("pin.side[") for t in tags))
    assert len(sides) == len(holes) == 4
    for face in sides:
        middle = measure.face_middle(core.solid, face)
        # From a pin's axis to the wall of its hole is its radius and the gap.
        assert probing.distance_to_faces(cavity.solid, holes, middle) == pytest.approx(4.1, abs=1e-9)


def test_feed_opens_the_half_and_joins_the_shot(mold: Built) -> None:
    made = mold.state.bodies
    shot = measure.volume(made["sho"].body.solid)
    assert shot == pytest.approx(measure.volume(made["lnk"].body.solid) + measure.volume(made["fee"].body.solid), rel=1e-9)
    # Cone frustum from 4 to 6.4 mm over the height of the block below the part, whose outside is flat there.
    height = measure.box(made["lnk"].body.solid).low[2] - measure.box(made["spl.cavity"].body.solid).low[2]
    assert measure.volume(made["fee"].body.solid) == pytest.approx(math.pi * height / 3 * (4 + 6.4 + 10.24), rel=1e-9)
    assert boolean.common(made["spl.cavity"].body.solid, [made["sho"].body.solid]) == []


def test_pour_funnel_through_the_core(tray: Document) -> None:
    funnel = {**MOLD[6], "kind": "funnel", "side": "core", "inner": "6", "outer": "6", "mouth": "20", "depth": "10", "x": "30"}
    made = bodies(tool([*MOLD[:6], funnel]), tray)
    box = measure.box(made["fee"].body.solid)
    assert box.size[0] == pytest.approx(20, abs=1e-6) and box.high[2] == pytest.approx(26)


@pytest.mark.parametrize("pull", ["+z", "-z"])
def test_block_margins_and_sizes(tray: Document, pull: str) -> None:
    block = {**MOLD[2], "pull": pull, "left": "30 mm", "below": "10 mm", "above": "15 mm"}
    made = bodies(tool([*MOLD[:2], block]), tray)
    part_box, box = (measure.box(made[name].body.solid) for name in ("lnk", "blk"))
    under, over = (10, 15) if pull == "+z" else (15, 10)
    assert part_box.low[2] - box.low[2] == pytest.approx(under, abs=1e-3)
    assert box.high[2] - part_box.high[2] == pytest.approx(over, abs=1e-3)
    assert part_box.low[0] - box.low[0] == pytest.approx(30, abs=1e-3)
    sized = {**MOLD[2], "sized": "by size", "length": "200", "width": "150", "height": "90"}
    assert measure.box(bodies(tool([*MOLD[:2], sized]), tray)["blk"].body.solid).size == pytest.approx((200, 150, 90))


# --- what is refused, and how it is said --------------------------------------------------------------------------

OPEN_OUTLINE = {
    "id": "s1",
    "type": "sketch",
    "points": {"a": [0, 0], "b": [10, 0], "c": [10, 5]},
    "entities": {"L1": {"type": "line", "a": "a", "b": "b"}, "L2": {"type": "line", "a": "b", "b": "c"}},
}
HOLE = [circle("s2", "10", x="200"), extrude("e2", "s2", "5", result="cut", extent="through all")]

BAD: list[tuple[list[dict[str, Any]], str, str, str]] = [
    ([OPEN_OUTLINE, extrude("e1", "s1", "5")], "e1", "profile", "open at"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "0")], "e1", "distance", "greater than zero"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "-3")], "e1", "distance", "greater than zero"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "tall")], "e1", "distance", "no value named “tall”"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "30 deg")], "e1", "distance", "an angle"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "200 km")], "e1", "distance", "cannot be read"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "30", draft="45")], "e1", "draft", "closes the outline"),
    ([rectangle("s1", "40", "30"), extrude("e1", "s1", "30", draft="95")], "e1", "draft", "out of range"),
    ([*BOX, {"id": "h", "type": "shell", "wall": "25", "open": [{"face": "e1.end"}]}], "h", "wall", "does not fit"),
    ([*BOX, {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "zz.end"}]}], "h", "open", "no longer exists"),
    (
        [*BOX, {"id": "f", "type": "fillet", "edges": [{"rule": "uprights", "of": "e1"}], "radius": "16"}],
        "f",
        "radius",
        "2 of 4 edges",
    ),
    ([*BOX, {"id": "f", "type": "fillet", "radius": "2"}], "f", "edges", "No edge is picked"),
    ([*BOX, *HOLE], "e2", "profile", "misses"),
    ([*BOX, rectangle("s2", "4", "4", on={"face": "e1.gone"})], "s2", "on", "no longer exists"),
    ([extrude("e1", "nope", "3")], "e1", "profile", "not there"),
    ([*BOX, {"id": "u", "type": "union", "body": "e1", "tools": ["e1"]}], "u", "tools", "itself"),
    ([{"id": "m", "type": "import", "file": "a.step", "asset": "0" * 64}], "m", "file", "not at hand"),
    ([rectangle("s1", "w", "30")], "s1", "figures.f1.width", "no value named “w”"),
]


@pytest.mark.parametrize(("steps", "step", "field", "words"), BAD, ids=[f"{b[1]}-{b[3][:14]}" for b in BAD])
def test_bad_input_names_step_field_and_cure(steps: Any, step: str, field: str, words: str) -> None:
    outcome = built(part(steps)).outcome(step)
    assert (outcome.status, outcome.field) == ("failed", field)
    assert words in outcome.message + outcome.hint
    assert outcome.message and outcome.hint


BAD_TOOLS: list[tuple[int, dict[str, Any], str, str]] = [
    (1, {"shrinkage": "25 %"}, "shrinkage", "out of range"),
    (1, {"shrinkage": "-1"}, "shrinkage", "negative"),
    (2, {"sized": "by size", "length": "100"}, "length", "does not hold the part"),
    (4, {"at": {"plane": "top", "offset": "200 mm"}}, "at", "misses"),
    (4, {"at": {"plane": "front"}}, "at", "square to the pull"),
    (5, {"inset": "3 mm"}, "inset", "stand off the block"),
    (5, {"inset": "80 mm"}, "inset", "meet in the middle"),
    (5, {"inset": "34 mm"}, "inset", "cavity"),
    (5, {"height": "60 mm"}, "height", "goes through"),
    (5, {"chamfer": "4 mm"}, "chamfer", "as large as the pin"),
    (6, {"x": "80 mm"}, "x", "does not meet the part"),
]


@pytest.mark.parametrize(
    ("index", "change", "field", "words"), BAD_TOOLS, ids=[f"{MOLD[b[0]]['id']}-{b[3][:14]}" for b in BAD_TOOLS]
)
def test_bad_tool_input(tray: Document, index: int, change: dict[str, Any], field: str, words: str) -> None:
    steps = [*MOLD[:index], {**MOLD[index], **change}]
    outcome = built(tool(steps), tray).outcomes[-1]
    assert (outcome.status, outcome.field) == ("failed", field), outcome
    assert words in outcome.message and outcome.hint


def test_block_too_small_for_its_part_is_refused(tray: Document) -> None:
    block = {**MOLD[2], "around": "0", "below": "0", "above": "0"}
    outcome = built(tool([*MOLD[:2], block, MOLD[3]]), tray).outcomes[-1]
    assert outcome.status == "failed" and outcome.hint


def test_closed_hollow_is_announced() -> None:
    outcome = built(part([*BOX, {"id": "h", "type": "shell", "wall": "2"}])).outcome("h")
    assert outcome.status == "ok" and "Closed hollow" in outcome.notes[0]


def test_the_mold_follows_its_part(tray: Document) -> None:
    changed, _ = apply(tray, read_edit({"op": "set", "step": "out", "field": "figures.f1.width", "value": "130 mm"}))
    result = built(tool(MOLD), changed)
    assert result.ok
    box = measure.box(result.state.bodies["spl.core"].body.solid)
    assert box.size[0] == pytest.approx(130 / (1 - 0.0055) + 48, abs=2e-3)


def test_every_step_type_reads_its_own_example() -> None:
    """The example in a step's docstring is valid; it is what the documentation shows."""
    import json
    import re

    from supplecast.document.model import read_step
    from supplecast.document.step import Step

    for kind in Step.registry.values():
        found = re.search(r"Example: (\{.*\})", kind.__doc__ or "", re.DOTALL)
        assert found, kind
        text = " ".join(found.group(1).split()).replace("9f86d0…", "9" * 64)
        assert read_step(json.loads(text)).type == kind.model_fields["type"].default


def test_an_unknown_step_type_is_refused() -> None:
    with pytest.raises(DocumentError, match="no step type “weld”"):
        part([{"id": "a", "type": "weld"}])


@pytest.mark.parametrize("pull", ["+x", "-x", "+y", "-y", "-z"])
def test_molds_open_along_every_axis(pull: str) -> None:
    """A plain block lying across the parting plane: halves add up, pins fit, and each half lies on its own side."""
    axis = "xyz".index(pull[1])
    plane = {0: "side", 1: "front", 2: "top"}[axis]
    steps: list[dict[str, Any]] = [
        {**MOLD[0]},
        {**MOLD[1], "about": "centroid"},
        {**MOLD[2], "pull": pull},
        MOLD[3],
        {**MOLD[4], "at": {"plane": plane, "offset": "0"}},
        MOLD[5],
    ]
    sketch = rectangle("s1", "40", "30")
    made = bodies(tool(steps), part([sketch, extrude("e1", "s1", "20", direction="both ways")]))
    core, cavity = made["spl.core"], made["spl.cavity"]
    sense = 1 if pull[0] == "+" else -1
    assert (
        measure.mass(core.body.solid).centroid[axis] * sense > 5 > -5 > measure.mass(cavity.body.solid).centroid[axis] * sense
    )
    assert boolean.common(core.body.solid, [cavity.body.solid]) == []
    for half in (core, cavity):
        manifold(half.body.solid, 0.05, 0.2)


@pytest.mark.parametrize(("about", "normal"), [("x", (0.0, -0.5, math.sqrt(0.75))), ("y", (0.5, 0.0, math.sqrt(0.75)))])
def test_a_sketch_on_a_tilted_plane_is_raised_along_its_normal(about: str, normal: tuple[float, float, float]) -> None:
    """30° about its own x or y, 5 mm up; a pin of 8 × 20 keeps its volume, and its top lies 20 mm along the new normal."""
    on = {"plane": "top", "offset": "5", "tilt": "30 deg", "about": about}
    result = built(part([circle("c", "8", on=on), extrude("e", "c", "20")]))
    frame = result.state.sketches["c"].frame
    assert frame.normal == pytest.approx(normal) and frame.origin == (0, 0, 5)
    mass = measure.mass(result.state.bodies["e"].body.solid)
    assert mass.volume == pytest.approx(320 * math.pi)
    assert mass.centroid == pytest.approx([frame.origin[i] + 10 * normal[i] for i in range(3)])
