"""Slide guides: gibs and detents, against another engine: held down and sideways, free along the way for the stroke."""

from __future__ import annotations

from typing import Any

import pytest
from scripts.whole_tools import overlaps

from supplecast.document.rebuild import Built
from supplecast.geometry import times
from supplecast.kernel import measure
from supplecast.molding import opening
from supplecast.steps.tool.slide_ways import stroke_to_stop
from tests.conftest import STEPS, part, tool
from tests.test_mold_base import BASE, CHECK, DRIVE, ROOMY
from tests.test_tools import HALVES, SLIDE, WINDOW, built, of_role

ONE: STEPS = [{"id": "ins", "type": "inserts", "columns": 1, "rows": 1}, {"id": "fee", "type": "feed"}]
GUIDES: dict[str, Any] = {"id": "sgd", "type": "slide guides"}
_UP = (0.0, 0.0, -1.0)


@pytest.fixture(scope="module")
def guided() -> Built:
    made = built(tool([*ROOMY, *ONE, BASE, DRIVE, GUIDES, CHECK]), part(WINDOW))
    assert made.ok, [(o.step, o.field, o.message) for o in made.outcomes if o.status != "ok"]
    return made


def _shared(guided: Built, aside: tuple[float, float, float]) -> dict[str, float]:
    """What the slide, moved, has in common with each gib, with the detent and with the core side, mm³."""
    slide = opening.meshed(of_role(guided, "core slide")[0].body.solid).manifold.translate(aside)
    others = [e for e in guided.state.bodies.values() if e.name.startswith(("Gib", "Detent", "Core"))]
    return {e.name: abs(float((slide ^ opening.meshed(e.body.solid).manifold).volume())) for e in others}


def test_gibs_hold_a_slide_down_and_sideways_and_let_it_go_its_stroke(guided: Built) -> None:
    """Lifted by 0.2 mm, play 0.03, the tongues take hold: 0.17 mm over their reach; across too. Along its way it runs free."""
    (slide,) = of_role(guided, "core slide")
    way, stroke = slide.pull or (1, 0, 0), stroke_to_stop(list(guided.state.bodies.values()), slide)
    assert stroke == pytest.approx(2.69 + 3, abs=0.01)  # the window's wall, drafted and grown, and 3 mm on
    lifted = _shared(guided, times(_UP, 0.2))
    pressed = [volume for name, volume in lifted.items() if name.startswith("Gib")]
    gib = next(e for e in guided.state.bodies.values() if e.name == "Gib")
    long = measure.box(gib.body.solid).size[1]
    assert len(pressed) == 2 and all(0.17 * 3.0 * long * 0.9 < v < 0.17 * 6.0 * long for v in pressed), lifted
    turned = _shared(guided, (0.5, 0.0, 0.0))
    assert max(volume for name, volume in turned.items() if name.startswith("Gib")) > 10
    assert stroke is not None
    for share in (0.0, 0.25, 0.5, 0.75, 0.99):
        free = _shared(guided, times(way, share * stroke))
        assert max(free.values()) < 1.0, (share, free)
    assert not overlaps(guided)


def test_a_detents_ball_finds_its_notch_when_the_slide_is_out(guided: Built) -> None:
    """The notch is the stroke before the detent, seen along the way; it takes π · 1.5² · 1 mm³ of the slide."""
    (slide,) = of_role(guided, "core slide")
    detent = next(e for e in guided.state.bodies.values() if e.name == "Detent")
    (face,) = [f for f, tags in enumerate(slide.body.tags) if any("side[1 notch]" in tag for tag in tags)]
    notch, ball = measure.face_box(slide.body.solid, face).centre, measure.box(detent.body.solid).centre
    assert notch[1] - ball[1] == pytest.approx(5.687, abs=2e-3) and notch[0] == pytest.approx(ball[0])  # it leaves along -y


def test_what_guides_cannot_hold_is_told() -> None:
    narrow = [{**step, "around": "20"} if step["type"] == "block" else step for step in SLIDE]
    cases: list[tuple[STEPS, str]] = [
        ([*HALVES, GUIDES], "No slide rides on the core half"),
        ([*narrow, GUIDES], "for gibs, behind the part"),
        ([*narrow, GUIDES, DRIVE], "The slide drive stands below"),
        ([*ROOMY, GUIDES, {**GUIDES, "id": "two"}], "have their gibs already"),
    ]
    for steps, words in cases:
        outcome = next(o for o in built(tool(steps), part(WINDOW)).outcomes if o.status != "ok")
        assert (outcome.status, outcome.field) == ("failed", "wide") and words in outcome.message and outcome.hint, outcome
