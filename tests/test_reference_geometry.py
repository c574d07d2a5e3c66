"""Datum planes, axes and points; what is measured, what touches, and what another unit does."""

from __future__ import annotations

import math
from typing import Any

import pint
import pytest

from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document, read_document, read_step
from supplecast.document.state import Datum
from supplecast.document.units import relabelled, renumbered, with_units
from supplecast.errors import DocumentError
from supplecast.geometry import Vec, dot
from supplecast.kernel import contact, gauge, measure, solid
from supplecast.molding.plausible import size_warning
from supplecast.quantities import Scope, restated
from supplecast.tooling.resins import RESINS
from tests.conftest import STEPS, bodies, built, circle, extrude, part, rectangle
from tests.referee.bodies import fault, volume

BOX: STEPS = [rectangle("s1", "40 mm", "30 mm"), extrude("e1", "s1", "20 mm")]
EDGE = {"edge": ["e1.end", "e1.side[f1_L1]"]}
TOP = {"face": "e1.end"}
HALF = math.sqrt(0.5)


def datum(kind: str, *more: dict[str, Any], **fields: Any) -> Datum:
    result = built(part([*BOX, *more, {"id": "d", "type": kind, **fields}]))
    assert result.ok, [o.message for o in result.outcomes]
    return result.state.datums["d"]


def near(found: Vec, wanted: Vec) -> bool:
    return math.dist(found, wanted) < 1e-9


def test_planes_by_every_way() -> None:
    tilted = datum("plane", how="through an edge", line=EDGE, angle="45", base=TOP)
    assert near(tilted.frame.normal, (0, -HALF, HALF)) and abs(tilted.frame.over((7, -15, 20))) < 1e-9
    between = datum("plane", how="midway", base=TOP, other={"face": "e1.start"})
    assert near(between.frame.origin, (0, 0, 10)) and abs(between.frame.normal[2]) == pytest.approx(1)
    halving = datum("plane", how="midway", base=TOP, other={"face": "e1.side[f1_L1]"})
    for other in ((0, 0, 1), (0, -1, 0)):
        assert dot(halving.frame.normal, other) == pytest.approx(HALF)
    corners = [{**EDGE, "share": "0 %"}, {**EDGE, "share": "100 %"}, {"origin": True}]
    three = datum("plane", how="through three points", points=corners)
    assert all(abs(three.frame.over(p)) < 1e-9 for p in ((-20, -15, 20), (20, -15, 20), (0, 0, 0)))
    across = datum("plane", how="across an edge", place={**EDGE, "share": "25 %"})
    assert abs(across.frame.normal[0]) == pytest.approx(1) and abs(across.frame.origin[0]) == pytest.approx(10)
    moved = datum("plane", base={**TOP, "offset": "-3 mm", "tilt": "10"})
    assert moved.frame.origin[2] == pytest.approx(17)


@pytest.mark.parametrize("angle", [0, 30, 200])
def test_planes_that_touch_a_round_face(angle: float) -> None:
    """A tangent plane stands one radius off the axis, square to the spoke at its angle."""
    boss = [circle("s2", "12", x="5", on=TOP), extrude("e2", "s2", "8", result="add")]
    found = datum("plane", *boss, how="touching", face=[{"face": "e2.side[f1_C1]"}], angle=f"{angle}")
    turn = math.radians(angle)
    spoke = (math.cos(turn), math.sin(turn), 0.0)
    assert near(found.frame.normal, spoke) and found.frame.over((5, 0, 24)) == pytest.approx(-6)


def test_a_sphere_and_a_cone_are_touched() -> None:
    half = {"id": "h", "type": "sketch", "on": {"plane": "front"}, "points": {"a": [0, 30], "b": [0, 60], "c": [0, 45]}}
    half["entities"] = {"A": {"type": "arc", "c": "c", "a": "a", "b": "b"}, "L": {"type": "line", "a": "b", "b": "a"}}
    ball = [half, {"id": "r", "type": "revolve", "profile": {"sketch": "h"}}]
    found = datum("plane", *ball, how="touching", face=[{"face": "r.side[A]"}])
    assert found.frame.over((0, 0, 45)) == pytest.approx(-15)
    cone = [circle("s2", "20", x="60"), extrude("e2", "s2", "10", draft="20", result="new")]
    on = datum("plane", *cone, how="touching", face=[{"face": "e2.side[f1_C1]"}], angle="90")
    assert on.frame.normal[2] == pytest.approx(math.sin(math.radians(20)))
    flat = [*BOX, {"id": "d", "type": "plane", "how": "touching", "face": [TOP]}]
    assert "flat already" in fault(flat)[1]


def test_axes_and_points() -> None:
    crossed = datum("axis", how="where planes meet", first=TOP, second={"face": "e1.side[f1_L1]"})
    assert near(crossed.frame.normal, (1, 0, 0)) and crossed.frame.origin[1:] == pytest.approx((-15, 20))
    boss = [circle("s2", "12", x="5", on=TOP), extrude("e2", "s2", "8", result="add")]
    round_face = datum("axis", *boss, of={"face": "e2.side[f1_C1]"})
    assert near(round_face.frame.normal, (0, 0, 1)) and round_face.frame.origin[:2] == pytest.approx((5, 0))
    rim = {"edge": ["e2.end", "e2.side[f1_C1]"], "at": "centre"}
    two = datum("axis", *boss, how="through two points", points=[{"origin": True}, rim])
    assert two.frame.normal == pytest.approx((5 / math.hypot(5, 28), 0, 28 / math.hypot(5, 28)))
    assert datum("point", *boss, place=rim, z="2").frame.origin == pytest.approx((5, 0, 30))
    assert datum("point", place=TOP).frame.origin == pytest.approx((0, 0, 20))


def test_what_datums_refuse_and_name() -> None:
    parallel = {"id": "d", "type": "axis", "how": "where planes meet", "first": TOP, "second": {"plane": "top"}}
    assert fault([*BOX, parallel])[0] == "second" and "parallel" in fault([*BOX, parallel])[1]
    line = {"id": "d", "type": "plane", "how": "through three points", "points": [{"origin": True}] * 3}
    assert "one line" in fault([*BOX, line])[1]
    few = {**line, "points": [{"origin": True}]}
    assert "Three points" in fault([*BOX, few])[1]
    square = {"id": "d", "type": "plane", "how": "through an edge", "line": {"axis": "z"}, "base": {"plane": "top"}}
    assert "stands square" in fault([*BOX, square])[1]
    wrong = [{"id": "d", "type": "point"}, {**BOX[0], "id": "s2", "on": {"datum": "d"}}]
    assert "not a plane" in fault([*BOX, *wrong])[1]
    straight = {"id": "d", "type": "point", "place": {**EDGE, "at": "centre"}}
    assert "no centre" in fault([*BOX, straight])[1]


def test_a_datum_carries_what_is_built_on_it_along() -> None:
    plane = {"id": "d", "type": "plane", "how": "through an edge", "line": EDGE, "angle": "45", "base": TOP}
    pad = [circle("s2", "6", y="20", on={"datum": "d"}), extrude("e2", "s2", "5", result="new")]
    made = bodies(part([*BOX, plane, *pad]))["e2"].body.solid
    turned = bodies(part([*BOX, {**plane, "angle": "0"}, *pad]))["e2"].body.solid
    assert measure.volume(made) == pytest.approx(45 * math.pi) == pytest.approx(measure.volume(turned))
    assert measure.mass(made).centroid[2] > measure.mass(turned).centroid[2] + 10


# --- what touches ----------------------------------------------------------------------------------------------------


def block(x: float, y: float, z: float) -> Any:
    return solid.box((x, y, z), (x + 10, y + 10, z + 10)).solid


@pytest.mark.parametrize(
    ("place", "kind"),
    [((5, 0, 0), "space"), ((10, 0, 0), None), ((30, 0, 0), None), ((10, 10, 0), "edge"), ((10, 10, 10), "point")],
)
def test_pairs_that_share_space_or_only_an_edge_or_a_point(place: Vec, kind: str | None) -> None:
    found = contact.between(block(0, 0, 0), block(*place))
    assert (found.kind if found else None) == kind
    if found and kind == "space":
        assert found.volume == pytest.approx(500, rel=1e-6) and found.place == pytest.approx((7.5, 5, 5))
    if found and kind == "edge":
        assert found.place[:2] == pytest.approx((10, 10))


# --- what is measured --------------------------------------------------------------------------------------------------


def figures(first: gauge.Thing, second: gauge.Thing | None = None) -> dict[str, float]:
    rows = gauge.single(first) if second is None else gauge.between(first, second)[0]
    return {row.name: row.value for row in rows}


def test_faces_edges_and_points_are_measured() -> None:
    body = bodies(part([*BOX, circle("s2", "12", on=TOP), extrude("e2", "s2", "8", result="add")]))["e1"].body
    at = {tags[0]: face for face, tags in enumerate(body.tags)}

    def face(name: str) -> gauge.Thing:
        return gauge.Thing(body.solid, face=at[name])

    wall = figures(face("e1.start"), face("e2.end"))
    assert wall["wall"] == pytest.approx(28) and wall["along z"] == pytest.approx(28)
    assert figures(face("e1.side[f1_L1]"), face("e1.side[f1_L2]"))["angle"] == pytest.approx(math.pi / 2)
    assert figures(face("e2.side[f1_C1]"))["radius"] == pytest.approx(6)
    assert figures(face("e1.side[f1_L1]"), face("e2.side[f1_C1]"))["least distance"] == pytest.approx(9)
    ends = {at["e2.end"], at["e2.side[f1_C1]"]}
    rim = next(e for e in range(body.solid.number_of_edges) if set(body.solid.faces_at_edges[e]) == ends)
    assert figures(gauge.Thing(edge=rim, solid=body.solid))["length"] == pytest.approx(12 * math.pi)
    corner = gauge.Thing(point=(20, 15, 20))
    assert figures(corner, gauge.Thing(point=(0, 0, 0)))["least distance"] == pytest.approx(math.sqrt(1025))


def test_a_measured_note_follows_the_model() -> None:
    note = {"id": "m", "type": "measure", "of": [TOP, {"face": "e1.start"}]}
    for height in (20, 25):
        result = built(part([BOX[0], extrude("e1", "s1", f"{height} mm"), note]))
        outcome = result.outcome("m")
        assert f"wall {height} mm" in outcome.notes[0] and outcome.figures["wall"] == pytest.approx(height)
    assert fault([*BOX, {**note, "of": []}])[0] == "of"


# --- units, names, looks -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "text", ["40", "40/2", "wall + 1", "1/2 in", "2 * wall", "max(3, wall)", "wall", "3 mm + 1", "1 1/2 in"]
)
def test_a_length_means_the_same_in_another_unit(text: str) -> None:
    """Against pint, an independent library of units."""
    scope, inches = Scope({"wall": "2.2"}, "mm"), Scope({"wall": "2.2"}, "in")
    assert inches.evaluate(restated(text, scope, "in"), "length") == pytest.approx(scope.evaluate(text, "length"), rel=1e-12)
    if text == "1 1/2 in":
        assert scope.evaluate(text, "length") == pytest.approx(pint.UnitRegistry().Quantity(1.5, "inch").to("mm").magnitude)


def drawn_loose() -> dict[str, Any]:
    line = {"type": "line", "a": "a", "b": "b"}
    return {"id": "k", "type": "sketch", "points": {"a": [0, 0], "b": [0, 30]}, "entities": {"L": line}}


def test_a_document_keeps_its_size_or_its_numbers() -> None:
    plate = [rectangle("s1", "40", "30"), extrude("e1", "s1", "h + 1"), {"id": "f", "type": "fillet", "radius": "2"}]
    plate[2]["edges"] = [{"rule": "uprights", "of": "e1"}]
    document = part([*plate, drawn_loose()], values={"h": "9"})
    before = measure.volume(bodies(document)["e1"].body.solid)
    assert measure.volume(bodies(relabelled(document, "in"))["e1"].body.solid) == pytest.approx(before, rel=1e-12)
    larger = renumbered(document, "in")
    assert measure.volume(bodies(larger)["e1"].body.solid) == pytest.approx(before * 25.4**3, rel=1e-9)
    ends = built(larger).state.sketches["k"].curves[0]
    assert math.dist(*ends.sampled(1)) == pytest.approx(30 * 25.4)
    typed = document.altered(steps=[*document.steps, read_step({"id": "b", "type": "basic shape", "x": "99 mm"})])
    sizes = [f"Basic shape {size} 20 mm" for size in ("width", "depth", "height")]
    assert with_units(typed) == [*sizes, "Basic shape x 99 mm"] and with_units(document) == []
    every = renumbered(typed, "in", all_of_them=True)
    assert measure.volume(bodies(every)["b"].body.solid) == pytest.approx(8000 * 25.4**3, rel=1e-9)
    assert measure.volume(bodies(renumbered(typed, "in"))["b"].body.solid) == pytest.approx(8000, rel=1e-9)
    edit = read_edit({"op": "document", "unit": "in", "keeps": "size"})
    assert apply(document, edit)[0] == relabelled(document, "in")


def test_sizes_that_nobody_molds_are_pointed_out() -> None:
    """Two of the thinnest walls of the resin, and a metre and a half: common practice, no source."""
    assert "thinnest walls" in size_warning(1.6, RESINS["ABS"]) and "larger than" in size_warning(3100, RESINS["PP"])
    assert size_warning(124, RESINS["ABS"]) == ""


def test_bodies_are_named_coloured_and_hidden() -> None:
    document = part([*BOX, rectangle("s2", "5", "5", x="60"), extrude("e2", "s2", "5")])
    assert [entry.name for entry in built(document).state.bodies.values()] == ["Body", "Body 2"]
    named, words = apply(document, read_edit({"op": "look", "body": "e2", "name": "Key"}))
    assert words == "Name a body Key" and built(named).state.bodies["e2"].name == "Key"
    dyed, _ = apply(named, read_edit({"op": "look", "body": "e2", "colour": "#A8443A", "hidden": True}))
    assert dyed.looks["e2"].name == "Key" and dyed.looks["e2"].hidden
    assert read_document(dyed.to_dict()) == dyed
    with pytest.raises(DocumentError):
        apply(document, read_edit({"op": "look", "body": "e2", "colour": "red"}))
    plain, _ = apply(named, read_edit({"op": "look", "body": "e2", "name": ""}))
    assert plain == document and isinstance(plain, Document)


def test_a_document_of_before_still_reads() -> None:
    """Revolves that name x or y, lofts of a first and a second outline, patterns along `+x`."""
    turned = [rectangle("s1", "4", "6", x="20"), {"id": "e1", "type": "revolve", "profile": {"sketch": "s1"}, "axis": "y"}]
    assert volume(turned) == pytest.approx(24 * 40 * math.pi, rel=1e-9)
    over = [rectangle("s1", "4", "6"), rectangle("s2", "4", "6", on={"plane": "top", "offset": "5"})]
    over.append({"id": "e1", "type": "loft", "first": {"sketch": "s1"}, "second": {"sketch": "s2"}})
    assert volume(over) == pytest.approx(120, rel=1e-9)
    row = {"id": "p", "type": "pattern", "tool": "e2", "body": "e1", "direction": "+x", "spacing": "9", "count": 2}
    pins = [*BOX, circle("s2", "4"), extrude("e2", "s2", "30"), row]
    assert volume(pins) == pytest.approx(24000 - 2 * 80 * math.pi, rel=1e-9)
