"""Corners of inserts and of their pockets, rounded alike by the cutter that mills them."""

from __future__ import annotations

import math

import pytest

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from tests.conftest import TRAY, part, tool
from tests.test_tools import HALVES
from tests.test_tools import built as remembered

INSERTS = {"id": "ins", "type": "inserts", "columns": 2, "rows": 1, "second": "as the first"}


def made(corner: str) -> Built:
    return remembered(tool([*HALVES, {**INSERTS, "corner": corner}]), part(TRAY))


def of_role(result: Built, role: str) -> list[Entry]:
    return [e for e in result.state.bodies.values() if e.role == role]


def test_rounded_corners_take_of_the_inserts_what_they_leave_in_the_plates() -> None:
    """(4 − π) r² from each insert's height, and with the fit added to r less from its pocket."""
    sharp, rounded = made("0 mm"), made("6 mm")
    assert "spark erosion" in sharp.outcomes[-1].notes[-1] and "Ø12.04" in rounded.outcomes[-1].notes[-1]
    for role in ("core", "cavity"):
        inserts = of_role(rounded, f"{role} insert")
        before, after = (
            sum(kernel.measure.volume(e.body.solid) for e in of_role(one, f"{role} insert")) for one in (sharp, rounded)
        )
        sides = [_side(e) for e in inserts]
        assert before - after == pytest.approx((4 - math.pi) * 36 * sum(sides), rel=1e-9)
        plates = [sum(kernel.measure.volume(e.body.solid) for e in of_role(one, role)) for one in (sharp, rounded)]
        assert plates[1] - plates[0] == pytest.approx((4 - math.pi) * 6.02**2 * sum(sides), rel=1e-9)


def _side(insert: Entry) -> float:
    """How high the sides of an insert are: what of it stands over the parting plane is part of no corner, mm."""
    solid = insert.body.solid
    flats = [f for f in range(solid.face_count) if kernel.measure.surface_word(solid, f) == "round"]
    corners = [kernel.measure.face_box(solid, f) for f in flats if any("corners" in tag for tag in insert.body.tags[f])]
    return max(box.size[2] for box in corners)


def test_corners_rounder_than_the_insert_are_refused() -> None:
    failed = made("90 mm").outcomes[-1]
    assert failed.field == "corner" and "Use 59 or less" in failed.hint  # the block is 120.4 mm wide
