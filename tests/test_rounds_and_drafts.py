"""Fillets of several radii, chamfers of all kinds and drafts by rule and both ways: closed forms."""

from __future__ import annotations

import math
from typing import Any

import pytest

from supplecast.kernel import check, measure
from supplecast.kernel.shape import Solid
from tests.conftest import STEPS, bodies, built, extrude, part, rectangle

BOX: STEPS = [rectangle("s", "40", "30"), extrude("e", "s", "20")]
SIDE = {"edge": ["e.end", "e.side[f1_L1]"]}
OTHER = {"edge": ["e.end", "e.side[f1_L3]"]}
UPRIGHT = {"edge": ["e.side[f1_L1]", "e.side[f1_L2]"]}


def made(*steps: dict[str, Any]) -> Solid:
    solid = bodies(part([*BOX, *steps]))["e"].body.solid
    assert not check.faults(solid)
    return solid


def fillet(**fields: Any) -> dict[str, Any]:
    return {"id": "f", "type": "fillet", "radius": "3", "edges": [SIDE], **fields}


def test_several_radii_at_once() -> None:
    """Each straight edge loses (1 − π/4) r² of its section; a corner where three radii meet is sound."""
    apart = made(fillet(others=[{"edges": [OTHER], "radius": "5"}]))
    assert measure.volume(apart) == pytest.approx(24000 - (1 - math.pi / 4) * 40 * (9 + 25), rel=1e-9)
    assert made(fillet(others=[{"edges": [UPRIGHT], "radius": "6"}, {"edges": [OTHER], "radius": "2"}])).face_count > 8
    every = made(fillet(edges=[{"rule": "every"}], radius="4"))
    a, b, c = 32, 22, 12  # Steiner
    steiner = a * b * c + 8 * (a * b + b * c + c * a) + math.pi * 16 * (a + b + c) + 4 / 3 * math.pi * 64
    assert measure.volume(every) == pytest.approx(steiner, rel=1e-6)


@pytest.mark.parametrize(
    ("fields", "field"),
    [
        ({"others": [{"edges": [OTHER], "radius": "31"}]}, "others.0.radius"),
        ({"radius": "31", "others": [{"edges": [OTHER]}]}, "radius"),
        ({"others": [{"edges": []}]}, "others.0.edges"),
        ({"others": [{"edges": [OTHER], "radius": "-1"}]}, "others.0.radius"),
    ],
)
def test_a_radius_that_does_not_fit_names_its_row(fields: dict[str, Any], field: str) -> None:
    outcome = built(part([*BOX, fillet(**fields)])).outcome("f")
    assert outcome.status == "failed" and outcome.field == field


@pytest.mark.parametrize(
    ("fields", "off_top", "off_side"),
    [
        ({"distance": "1.5"}, 1.5, 1.5),
        ({"how": "by two distances", "distance": "1", "second": "2.5"}, 1, 2.5),
        ({"how": "by two distances", "distance": "1", "second": "2.5", "turned": "from the upright face"}, 2.5, 1),
        ({"how": "by a distance and an angle", "distance": "2", "angle": "30"}, 2, 2 * math.tan(math.radians(30))),
    ],
)
def test_chamfers_take_a_triangle_away(fields: dict[str, Any], off_top: float, off_side: float) -> None:
    solid = made({"id": "c", "type": "chamfer", "edges": [SIDE], **fields})
    assert measure.volume(solid) == pytest.approx(24000 - 40 * off_top * off_side / 2, rel=1e-9)
    flats = [f for f in range(solid.face_count) if measure.flat_frame(solid, f).normal[2] > 0.999]
    assert measure.face_area(solid, flats[0]) == pytest.approx(40 * (30 - off_top))


def frustum(width: float, depth: float, height: float, degrees: float) -> float:
    """Prismatoid formula: V = h/6 (A0 + 4 Am + A1)."""
    t = math.tan(math.radians(degrees))
    ends = [(width - 2 * z * t) * (depth - 2 * z * t) for z in (0, height / 2, height)]
    return height / 6 * (ends[0] + 4 * ends[1] + ends[2])


def draft(**fields: Any) -> dict[str, Any]:
    return {"id": "d", "type": "draft", "which": "all side faces", "angle": "3", **fields}


MIDDLE = {"plane": "top", "offset": "8"}
SHELL = {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]}
RIM = {"plane": "top", "offset": "20"}


def test_all_sides_lean_one_way_or_from_a_plane_both_ways() -> None:
    assert measure.volume(made(draft())) == pytest.approx(frustum(40, 30, 20, 3), rel=1e-9)
    split = made(draft(ways="both ways", neutral=MIDDLE))
    assert measure.volume(split) == pytest.approx(frustum(40, 30, 8, 3) + frustum(40, 30, 12, 3), rel=1e-9)
    assert split.face_count == 10
    one = made(draft(which="the faces", faces=[{"face": "e.side[f1_L1]"}], ways="both ways", neutral=MIDDLE))
    t = math.tan(math.radians(3))
    assert measure.volume(one) == pytest.approx(24000 - 40 * t * (8**2 + 12**2) / 2, rel=1e-9)


def test_only_the_inside_or_only_the_outside_leans() -> None:
    """From the rim down: the hollow narrows inside, the outside narrows outside."""
    inside = made(SHELL, draft(which="side faces inside", angle="1", neutral=RIM))
    assert measure.volume(inside) == pytest.approx(24000 - frustum(36, 26, 18, 1), rel=1e-9)
    outside = made(SHELL, draft(which="side faces outside", angle="-1", neutral=RIM))
    assert measure.volume(outside) == pytest.approx(frustum(40, 30, 20, 1) - 36 * 26 * 18, rel=1e-9)


def test_drafts_say_what_stands_in_their_way() -> None:
    missed = built(part([*BOX, draft(ways="both ways", neutral={"plane": "top", "offset": "90"})])).outcome("d")
    assert missed.field == "angle" and "misses" in missed.message
    none = built(part([*BOX, SHELL, draft(which="side faces inside", axis={"axis": "z"}, body="e", neutral={"plane": "top"}),
                       draft(which="side faces inside") | {"id": "d2", "body": "nobody"}])).outcome("d2")  # fmt: skip
    assert none.status == "failed" and none.field == "body"
    solid_body = built(part([*BOX, draft(which="side faces inside")])).outcome("d")
    assert solid_body.field == "which" and "no such faces" in solid_body.message
    steep = built(part([*BOX, draft(angle="60")])).outcome("d")
    assert steep.sized and "closes" in steep.message
