"""Core pins and sleeves for the holes of bosses: what they take of the core is what they are, and the tool opens with them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from supplecast import kernel
from supplecast.document.rebuild import Built
from supplecast.geometry import Vec
from supplecast.kernel import posts
from supplecast.tooling.base.components import pin_head
from tests.conftest import STEPS, TRAY, built, part, tool
from tests.test_mold_base import BASE, CHECK, PINS, TWO, entries
from tests.test_tools import HALVES
from tests.test_tools import built as remembered

pytestmark = pytest.mark.slow

AT = {"a": (-30, 0), "b": (30, 10)}
BOSSES: STEPS = [
    *TRAY,
    {"id": "pts", "type": "sketch", "on": {"plane": "top"}, "points": AT},
    {"id": "bos", "type": "boss", "level": {"plane": "top", "offset": "-10 mm"}, "sketch": "pts", "sized": "by diameters",
     "outer": "8 mm", "pilot": "3 mm", "root": "0.5 mm"},
]  # fmt: skip
ROOMY: STEPS = [{**step, "around": "34"} if step["type"] == "block" else step for step in HALVES]
CORE_PINS: dict[str, Any] = {"id": "cps", "type": "core pins"}
SLEEVES = {**CORE_PINS, "pushed": "with sleeves"}


def made(*more: dict[str, Any], of: STEPS = BOSSES) -> Built:
    return remembered(tool([*ROOMY, *more], resin="ABS"), part(of))


def test_holes_of_bosses_are_found_with_their_rims() -> None:
    document = part(BOSSES)
    body = next(iter(built(document).state.bodies.values())).body
    up: Vec = (0.0, 0.0, 1.0)
    found = posts.posts(body.solid, [True] * body.solid.face_count, up)
    bosses = sorted((post for post in found if post.around), key=lambda post: post.middle[0])
    assert np.array([post.middle for post in bosses]) == pytest.approx(np.array([(-30, 0, -10), (30, 10, -10)]))
    for post in bosses:
        assert (post.radius, post.around) == pytest.approx((1.5, 4.0))
        assert post.depth == pytest.approx(27 - 10 - 1.5, abs=1e-6)  # down to 1.5 mm over the outer skin


def test_what_a_pin_takes_of_the_core_is_the_pin() -> None:
    """But for the air round its head: the core before is core, pin and that ring, to rounding."""
    before, after = made(), made(CORE_PINS)
    assert after.ok, after.outcomes[-1].message
    volume = {
        role: sum(kernel.measure.volume(e.body.solid) for e in one.state.bodies.values() if e.role == role)
        for one in (before, after)
        for role in ("core", "core pin")
    }
    core = sum(kernel.measure.volume(e.body.solid) for e in before.state.bodies.values() if e.role == "core")
    head, high = pin_head(3.5)
    air = 2 * math.pi * ((head / 2 + 0.25) ** 2 - (head / 2) ** 2) * high
    assert core - volume["core"] - volume["core pin"] == pytest.approx(air, rel=1e-6)
    assert [e.stock.sizes[0] for e in entries(after, "Core pin") if e.stock] == [3.5, 3.5]  # the next over 3.02 + 0.2


def test_sleeves_stand_in_the_ejector_plates_and_the_tool_opens() -> None:
    """In either order with the ejectors; every sleeve goes on its pin, as wide as the rim allows."""
    for steps in ([SLEEVES, PINS], [PINS, SLEEVES]):
        one = made(*TWO, BASE, *steps, CHECK)
        assert one.ok, [(o.step, o.message) for o in one.outcomes if o.status != "ok"]
        pins, sleeves = entries(one, "Core pin"), entries(one, "Ejector sleeve")
        assert len(pins) == len(sleeves) == 4 and {e.group for e in sleeves} == {("Ejection",)}
        for pin, sleeve in zip(pins, sleeves, strict=True):
            assert sleeve.stock and pin.stock and sleeve.stock.sizes[:2] == (8.0, 3.5)
            assert kernel.nearness.between(pin.body.solid, sleeve.body.solid) == pytest.approx(0, abs=1e-6)
            rims = [kernel.measure.face_area(sleeve.body.solid, f) for f in range(sleeve.body.solid.face_count)]
            assert min(abs(area - math.pi * (4.0**2 - 1.75**2)) for area in rims) < 1e-6
        long = {round(e.stock.cut or 0, 2) for e in pins if e.stock}
        box = kernel.measure.box(pins[0].body.solid)
        assert long == {round(box.size[2], 2)}


def test_a_hole_is_picked_on_any_copy() -> None:
    one = made(*TWO)
    first, second = (e for e in one.state.bodies.values() if e.role == "molded")
    for entry in (first, second):
        tag = next(tags[0] for tags in entry.body.tags if "pilot" in tags[0] or "bore" in tags[0])
        face = {"face": tag, "body": entry.id}
        outcome = made(*TWO, {**CORE_PINS, "holes": [face]}).outcomes[-1]
        assert outcome.status == "ok" and "1 core pin on each of 2 places" in outcome.notes[0], (outcome.message, tag)


@pytest.mark.parametrize(
    "steps, fields, field, words",
    [
        ((), SLEEVES, "pushed", "Add a mold base"),
        ((*TWO, BASE), {**SLEEVES, "wide": "7 mm"}, "wide", "Use 6.5 or less"),
        ((*TWO, BASE), {**SLEEVES, "wide": "3 mm"}, "wide", "Use 3.3 or more"),
        ((), {**CORE_PINS, "holes": [{"face": "lnk.of{ext.end}"}]}, "holes", "Pick the wall of such a hole"),
    ],
)
def test_what_does_not_fit_is_said(steps: Any, fields: dict[str, Any], field: str, words: str) -> None:
    outcome = made(*steps, fields).outcomes[-1]
    assert outcome.field == field and words in f"{outcome.message} {outcome.hint}"


def test_a_rim_too_narrow_for_a_sleeve_says_what_boss_would_do() -> None:
    thin = [*BOSSES[:-1], {**BOSSES[-1], "outer": "5 mm", "pilot": "4 mm"}]
    outcome = made(*TWO, BASE, SLEEVES, of=thin).outcomes[-1]
    assert outcome.field == "pushed" and "give the boss 5.8 mm outside" in outcome.hint
    assert "No boss" in made(CORE_PINS, of=TRAY).outcomes[-1].message
