"""What can be dragged in the view: arrows that end on the skin they are for, and dragging, keys and typing that are one."""

from __future__ import annotations

import math
from typing import Any

import pytest
from playwright.sync_api import Page

from supplecast.geometry import Vec, along, cross, dot, subtract, times, turned
from supplecast.kernel import measure
from tests.conftest import STEPS, built, circle, extrude, part, rectangle
from tests.referee.browser import Hands

BOX = [rectangle("s", "40", "30"), extrude("e", "s", "20")]
UPRIGHT = {"edge": ["e.side[f1_L1]", "e.side[f1_L2]"]}
SPOT = {"id": "p", "type": "sketch", "on": {"face": "e.end"}, "points": {"a": (5, 3)}}

# A step, its field, and how far the skin that the arrow is for lies from where its value ends: nothing, but for rounds, whose
# middle is nearer to the edge than their radius.
ARROWS: list[tuple[STEPS, str, str]] = [
    ([rectangle("s", "40", "30"), extrude("e", "s", "20")], "e", "distance"),
    ([rectangle("s", "40", "30"), extrude("e", "s", "20", direction="down")], "e", "distance"),
    ([rectangle("s", "40", "30"), extrude("e", "s", "20", direction="both ways")], "e", "distance"),
    ([rectangle("s", "40", "30"), extrude("e", "s", "20", extent="by two lengths", back="5")], "e", "back"),
    ([*BOX, {"id": "n", "type": "nudge", "faces": [{"face": "e.end"}], "distance": "3"}], "n", "distance"),
    ([*BOX, {"id": "n", "type": "nudge", "faces": [{"face": "e.side[f1_L2]"}], "distance": "-3"}], "n", "distance"),
    ([*BOX, {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]}], "h", "wall"),
    ([*BOX, SPOT, {"id": "d", "type": "hole", "sketch": "p", "into": {"face": "e.end"}, "diameter": "6"}], "d", "diameter"),
    ([*BOX, SPOT, {"id": "d", "type": "hole", "sketch": "p", "into": {"face": "e.end"}, "deep": "to a depth",
                   "depth": "7"}], "d", "depth"),
    *(([{"id": "b", "type": "basic shape", "shape": shape, "x": "3"}], "b", field) for shape, field in (
        ("box", "width"), ("box", "depth"), ("box", "height"), ("cylinder", "diameter"), ("cylinder", "height"),
        ("ball", "diameter"), ("ring", "tube"))),
]  # fmt: skip


def handle_of(steps: STEPS, step: str, field: str) -> tuple[Any, Any]:
    made = built(part(steps))
    assert made.ok, [o.message for o in made.outcomes]
    (handle,) = [h for h in made.outcome(step).handles if h.field == field]
    return handle, made


@pytest.mark.parametrize(
    ("steps", "step", "field"), ARROWS, ids=[f"{n} {step} {field}" for n, (_, step, field) in enumerate(ARROWS)]
)
def test_an_arrow_ends_on_the_skin_that_it_moves(steps: STEPS, step: str, field: str) -> None:
    handle, made = handle_of(steps, step, field)
    (entry,) = made.state.bodies.values()
    tip: Vec = along(handle.origin, handle.direction, handle.value * handle.rate)
    if field == "tube":  # the arrow stands in the middle of the tube
        tip = along(handle.origin, handle.direction, handle.value / 2)
    assert _off(entry.body.solid, tip) < 1e-6


def _off(solid: Any, place: Vec) -> float:
    """How far a place is off the nearest face."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
    from OCP.BRepExtrema import BRepExtrema_DistShapeShape
    from OCP.gp import gp_Pnt

    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*place)).Vertex()
    return min(BRepExtrema_DistShapeShape(vertex, solid.face(face)).Value() for face in range(solid.face_count))


def test_rounds_are_dragged_into_the_body_and_angles_turn_the_way_they_are_typed() -> None:
    handle, _ = handle_of([*BOX, {"id": "f", "type": "fillet", "edges": [UPRIGHT], "radius": "4"}], "f", "radius")
    assert handle.origin[:2] == pytest.approx((20, -15)) and handle.direction[0] < 0 < handle.direction[1]
    turned = [circle("c", "4", x="10"), {"id": "r", "type": "revolve", "profile": {"sketch": "c"}, "angle": "90"}]
    handle, made = handle_of(turned, "r", "angle")
    # Turned by its value, the arm points to the middle of the far end.
    (entry,) = made.state.bodies.values()
    end = next(f for f, tags in enumerate(entry.body.tags) if tags[0].startswith("r.end"))
    far = subtract(measure.face_middle(entry.body.solid, end), handle.origin)
    assert dot(cross(handle.arm, far), handle.direction) == pytest.approx(100 * math.sin(handle.value))
    assert dot(handle.arm, far) == pytest.approx(100 * math.cos(handle.value), abs=1e-6)


LEANING: list[tuple[STEPS, str]] = [
    ([rectangle("s", "40", "30"), extrude("e", "s", "20", draft="10")], "draft"),
    ([circle("s", "40"), extrude("e", "s", "20", draft="10", direction="down")], "draft"),
    ([*BOX, {"id": "e2", "type": "draft", "faces": [{"face": "e.side[f1_L2]"}], "angle": "10"}], "angle"),
]


@pytest.mark.parametrize(("steps", "field"), LEANING)
def test_an_arc_leans_with_the_side_that_it_is_for(steps: STEPS, field: str) -> None:
    handle, made = handle_of(steps, "e2" if field == "angle" else "e", field)
    (entry,) = made.state.bodies.values()
    leant = turned(handle.arm, handle.direction, handle.value)
    for share in (0.2, 0.5, 0.8):
        # Of a round the arc begins on a chord, which lies a little inside.
        assert _off(entry.body.solid, along(handle.origin, leant, share)) < (1.6 if "diameter" in str(steps[0]) else 1e-6)


def test_planes_and_letters_have_a_place_and_a_turn() -> None:
    tilted = {"plane": "front", "offset": "4", "tilt": "30"}
    made = built(part([{"id": "p", "type": "plane", "base": tilted}]))
    offset, tilt = made.outcome("p").handles
    frame = made.state.datums["p"].frame
    assert along(offset.origin, offset.direction, offset.value) == pytest.approx(frame.origin)
    assert turned(tilt.arm, tilt.direction, tilt.value) == pytest.approx(times(frame.y, 15))
    words = {"id": "w", "type": "lettering", "text": "I", "on": [{"face": "e.end"}], "x": "5", "y": "-3"}
    made = built(part([*BOX, words]))
    x, y, turn = made.outcome("w").handles
    assert (x.value, y.value, turn.value) == (5, -3, 0) and turn.origin == pytest.approx((5, -3, 20))


def test_what_is_an_expression_is_not_dragged() -> None:
    made = built(part([rectangle("s", "40", "30"), extrude("e", "s", "h * 2")], values={"h": "5"}))
    assert made.ok and [handle.field for handle in made.outcome("e").handles] == ["draft"]


def test_dragging_typing_and_the_sentence_are_one(page: Page) -> None:
    hands = Hands(page)
    hands.begin("Handles")
    hands.sketch("rectangle")
    raised = hands.add("extrude")
    hands.type(raised, "distance", "10 mm")
    field = page.locator(f'input[data-step="{raised}"][data-field="distance"]')
    knob = page.locator(".tag.is-grip").first
    high = "bench.result.bodies[0].high[2]"

    box = knob.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    undo = page.evaluate("bench.undoCount")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 60, steps=6)
    page.wait_for_function(f"() => {high} > 11")  # the shape follows before anything is kept
    assert page.evaluate("bench.undoCount") == undo and knob.inner_text() == field.input_value() != "10 mm"
    hands.after(page.mouse.up)
    hands.settle()
    dragged = float(field.input_value().removesuffix(" mm"))
    assert page.evaluate(high) == pytest.approx(dragged) and page.evaluate("bench.undoCount") == undo + 1

    knob.focus()
    page.keyboard.press("ArrowDown")
    page.wait_for_function(f"h => {high} < h", arg=dragged)
    hands.after(lambda: page.keyboard.press("Escape"))
    hands.settle()
    assert page.evaluate(high) == pytest.approx(dragged) and page.evaluate("bench.undoCount") == undo + 1
    knob.focus()
    page.keyboard.type("7.5")
    hands.after(lambda: page.keyboard.press("Enter"))
    hands.settle()
    assert page.evaluate(high) == pytest.approx(7.5)

    # What a build has come to on its way stands before what was there, which is faint and not there for the hand.
    page.evaluate("bench.foreshow(bench.result.bodies, () => false)")
    page.wait_for_function("() => [...bench.viewer.bodies.values()].some(({ body }) => body.ghost)")
    middle = page.evaluate("(({ left, top, width, height }) => [left + width / 2, top + height / 2])"
                           "(bench.viewer.canvas.getBoundingClientRect())")  # fmt: skip
    hit = page.evaluate("([x, y]) => bench.viewer.picker.at(x, y, 'faces')", middle)
    assert hit and not hit["body"].startswith("was ")


def test_what_was_last_seen_stands_there_before_anything_is_built(page: Page) -> None:
    """With the answers of all work held back, a part that was built before is seen with its gauges, marked; no longer so once
    it has been built. A trial of which nothing came leaves what was there.
    """
    hands = Hands(page)
    hands.begin("Seen")
    hands.sketch("rectangle")
    raised = hands.add("extrude")
    hands.settle()
    page.wait_for_function("() => bench.strip.length && !bench.judged.old")
    page.route("**/api/jobs/*", lambda route: None)
    page.reload()
    page.wait_for_function("() => document.getElementById('bench')?.bench?.viewer.bodies.size && bench.strip.length")
    assert page.evaluate("bench.judged.old && bench.strip[0].title.includes('as last seen')")
    assert "as last seen" in page.locator("body").inner_text()
    page.unroute("**/api/jobs/*")
    page.reload()
    hands.ready()
    hands.settle()
    assert "as last seen" not in page.locator("body").inner_text()
    gone = """async ([step]) => { const shown = () => [...bench.viewer.bodies.keys()].join();
      const before = shown();
      await bench.foreshow(bench.result.bodies, () => false);
      await bench.showAgain();
      return before === shown() && before.includes(step); }"""
    assert page.evaluate(gone, [raised])
