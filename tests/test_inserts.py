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


def test_heels_hold_inserts_that_go_through_their_plates() -> None:
    """Heels of 5 × 8 on two sides, 7 mm shorter than the insert at either end, their outer corners rounded by 4: what they add
    to each insert. The plates end where the inserts do; in a mold base no screws hold them, and nothing overlaps.
    """
    heeled = {**INSERTS, "corner": "6", "holding": "by heels"}
    plain, made_ = (
        remembered(tool([*HALVES, {**one, "between": "30"}]), part(TRAY))
        for one in ({**heeled, "holding": "by screws"}, heeled)
    )
    for role in ("core", "cavity"):
        (before, *_), (after, *_) = (of_role(one, f"{role} insert") for one in (plain, made_))
        box = kernel.measure.corner_box(before.body.solid)
        heel = 2 * (5 * (box.size[1] - 14) - 2 * (1 - math.pi / 4) * 16) * 8
        assert kernel.measure.volume(after.body.solid) - kernel.measure.volume(before.body.solid) == pytest.approx(
            heel, rel=1e-8
        )
        (plate,) = of_role(made_, role)
        ends = [kernel.measure.span(e.body.solid, (0, 0, 1)) for e in (plate, after)]
        assert ends[0][1 if role == "core" else 0] == pytest.approx(ends[1][1 if role == "core" else 0], abs=1e-9)
    more = [{"id": "run", "type": "runners"}, {"id": "mb", "type": "mold base"}, {"id": "opn", "type": "opening check"}]
    whole = remembered(tool([*HALVES, heeled, *more]), part(TRAY))
    assert whole.ok, [(o.step, o.message) for o in whole.outcomes if o.message]
    base = next(o for o in whole.outcomes if o.step == "mb")
    assert not [flag for flag in base.flags if flag.field == "props"]
    assert not [e for e in whole.state.bodies.values() if e.name.startswith("Screw, insert")]
    near = remembered(tool([*HALVES, {**heeled, "heel": "14"}]), part(TRAY)).outcomes[-1]
    assert near.field == "between" and "Use 33.1 or more" in near.hint
