"""Ellipses and splines trimmed, extended, cut and offset: pieces of the very same curve, in closed form or point by point."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.special import ellipe

from supplecast.curves import Curve2, Ellipse2, Spline2
from supplecast.errors import SketchError
from supplecast.geometry import Floats
from supplecast.kernel import measure
from supplecast.quantities import Scope
from supplecast.sketch import regions
from supplecast.sketch.crossings import nearest
from supplecast.sketch.model import Drawing, Ellipse, Spline, ends_of
from supplecast.sketch.sizing import size_of
from supplecast.sketch.solver import solve
from tests.conftest import bodies, extrude, part
from tests.referee.sketches import act, areas, drawn, pick


def laid(drawing: Drawing) -> dict[str, Curve2]:
    return {curve.entity: curve for curve in regions.curves(drawing, solve(drawing, size_of(Scope())))}


def off(curve: Curve2, other: Curve2) -> float:
    """How far some curve is off another at most, mm: off an ellipse by its equation, made a length by the slope of that."""
    places = curve.at(np.linspace(0, 1, 301))
    if not isinstance(other, Ellipse2):
        return float(np.hypot(*(places - other.at(nearest(other, places))).T).max())
    away = places - np.array(other.centre)
    u, v = (away @ axis / (axis @ axis) for axis in other.axes)
    slope = 2 * np.hypot(u / math.hypot(*other.axes[0]), v / math.hypot(*other.axes[1]))
    return float(np.abs((u**2 + v**2 - 1) / slope).max())


def apart(places: Floats, curve: Curve2) -> Floats:
    """Distance of places to a curve, by many of its points."""
    many = curve.at(np.linspace(0, 1, 20001))
    return np.array([np.hypot(*(many - place).T).min() for place in places])


def an_ellipse(**sizes: str) -> tuple[Drawing, str]:
    done = drawn("ellipse", pick(0, 0), pick(10, 0), pick(0, 4), **sizes)
    return done.drawing, done.made[0]


def a_spline() -> tuple[Drawing, str]:
    done = drawn("spline", pick(0, 0), pick(10, 5), pick(20, 0), pick(30, 9))
    return done.drawing, done.made[0]


def test_an_ellipse_trimmed_at_a_line_leaves_its_segment() -> None:
    """Area of the ellipse's part right of x = 5: a b (π/3 − √3/4), as that of the circle of which it is the image."""
    drawing, name = an_ellipse(**{"long half": "10", "short half": "4"})
    drawing = drawn(
        "line",
        pick(
            5,
            -9,
        ),
        pick(5, 9),
        on=drawing,
    ).drawing
    done = act(drawing, {"do": "trim", "cuts": [[name, [-10, 0]]]})
    piece = done.drawing.entities[name]
    assert isinstance(piece, Ellipse) and piece.start and piece.end and not done.words.count("Lost")
    line = next(k for k in done.drawing.entities if k != name)
    ended = act(done.drawing, {"do": "trim", "cuts": [[line, [5, 8]], [line, [5, -8]]]})
    assert areas(ended.drawing) == [pytest.approx(40 * (math.pi / 3 - math.sqrt(3) / 4), rel=1e-8)]
    # The centre and the turn of the ellipse; the line's place and lean: where they meet, both end.
    assert ended.solution.freedoms == 3 + 2
    sketch = {"id": "k", "type": "sketch", **ended.drawing.model_dump(mode="json", exclude_none=True)}
    body = bodies(part([sketch, extrude("e", "k", "10")]))["e"].body.solid
    assert measure.volume(body) == pytest.approx(400 * (math.pi / 3 - math.sqrt(3) / 4), rel=1e-8)


def test_the_middle_of_an_ellipse_taken_out_leaves_two_alike() -> None:
    drawing, name = an_ellipse()
    for x in (-6, -2, 2, 6):
        drawing = drawn("line", pick(x, 0), pick(x, 9), on=drawing).drawing
    opened = act(drawing, {"do": "trim", "cuts": [[name, [0, -4]]]})  # from x = −6 round below to x = 6
    whole = laid(drawing)[name]
    done = act(opened.drawing, {"do": "trim", "cuts": [[name, [0, 4]]]})
    pieces = [k for k, entity in done.drawing.entities.items() if isinstance(entity, Ellipse)]
    assert len(pieces) == 2 and all(off(laid(done.drawing)[k], whole) < 1e-7 for k in pieces)
    turned = act(done.drawing, {"do": "turn", "names": pieces, "angle": "30"})
    assert turned.solution.misfit < 1e-9 and len([k for k in turned.drawing.entities if k in pieces]) == 2
    axis = next(k for k in done.drawing.entities if k not in pieces)
    mirrored = act(done.drawing, {"do": "mirror", "names": pieces[:1], "axis": axis})
    (twin,) = mirrored.made
    image, source = laid(mirrored.drawing)[twin], laid(mirrored.drawing)[pieces[0]]
    at = mirrored.drawing.place(ends_of(mirrored.drawing.entities[axis])[0])[0]
    assert image.at(np.array([0.3]))[0] == pytest.approx(source.at(np.array([0.3]))[0] * (-1, 1) + (2 * at, 0), abs=1e-6)


@pytest.mark.parametrize("spot", [(1, 1), (15, 3), (28, 7)])
def test_a_spline_trimmed_anywhere_is_a_piece_of_itself(spot: tuple[float, float]) -> None:
    drawing, name = a_spline()
    for x in (7, 13, 24):
        drawing = drawn("line", pick(x, -9), pick(x, 19), on=drawing).drawing
    whole = laid(drawing)[name]
    done = act(drawing, {"do": "trim", "cuts": [[name, list(spot)]]})
    pieces = [k for k, entity in done.drawing.entities.items() if isinstance(entity, Spline)]
    assert len(pieces) == (2 if spot[0] == 15 else 1) and all(off(laid(done.drawing)[k], whole) < 1e-7 for k in pieces)
    assert not done.drawing.faults() and done.solution.misfit < 1e-9
    used = {p for entity in done.drawing.entities.values() for p in (*ends_of(entity), *getattr(entity, "through", ()))}
    used |= {
        p for entity in done.drawing.entities.values() for p in (getattr(entity, "first", ""), getattr(entity, "last", ""))
    }
    assert set(done.drawing.points) <= used


def test_free_curves_run_on_along_themselves() -> None:
    """An ellipse back to where it was cut; a spline along its last polynomial, its curvature unbroken; both into a line."""
    drawing, name = an_ellipse()
    drawing = drawn("line", pick(-5, -9), pick(-5, 9), on=drawing).drawing
    drawing = drawn("line", pick(5, -9), pick(5, 9), on=drawing).drawing
    opened = act(drawing, {"do": "trim", "cuts": [[name, [0, 4]]]}).drawing
    line = list(opened.entities)[1]
    moved = act(opened, {"do": "erase", "names": [line]}).drawing
    moved = drawn("line", pick(1, 0), pick(1, 9), on=moved).drawing
    again = laid(act(moved, {"do": "extend", "entity": name, "at": [-5, 3.5]}).drawing)[name]
    assert off(again, laid(drawing)[name]) < 1e-7
    assert sorted((again.a[0], again.b[0])) == pytest.approx([1, 5])  # type: ignore[union-attr]
    drawing, name = a_spline()
    drawing = drawn("line", pick(33, -9), pick(33, 40), on=drawing).drawing
    before = laid(drawing)[name]
    done = act(drawing, {"do": "extend", "entity": name, "at": [29, 8]})
    after = laid(done.drawing)[name]
    assert isinstance(before, Spline2) and isinstance(after, Spline2)
    assert after.b[0] == pytest.approx(33, abs=1e-9) and off(before, after) < 1e-9
    share = sum(before.spans) / sum(after.spans)

    def bend(curve: Spline2, t: float) -> float:
        h = 1e-4
        behind, here, ahead = curve.at(np.array([t - h, t, t + h]))
        (u, v), (p, q) = (ahead - behind) / 2, ahead - 2 * here + behind
        return float((u * q - v * p) / math.hypot(u, v) ** 3)

    assert bend(after, share + 0.01) == pytest.approx(bend(after, share - 0.01), abs=0.05)
    with pytest.raises(SketchError, match="Nothing lies in the way"):
        act(drawing, {"do": "extend", "entity": name, "at": [0, 0]})
    closed, oval = an_ellipse()
    with pytest.raises(SketchError, match="has no end"):
        act(closed, {"do": "extend", "entity": oval, "at": [0, 0]})


def test_free_curves_are_cut_in_two_and_stay_where_they_are() -> None:
    spline = laid(a_spline()[0]).popitem()[1]
    assert isinstance(spline, Spline2)
    knot = spline.spans[0] / sum(spline.spans)
    beside = [tuple(float(c) for c in spline.at(np.array([knot + by]))[0]) for by in (-5e-7, 0.0, 5e-7)]  # at its own point
    for (drawing, name), spot in ((an_ellipse(), (7, 3)), *((a_spline(), spot) for spot in ((7, 3), *beside))):
        whole = laid(drawing)[name]
        done = act(drawing, {"do": "cut", "entity": name, "at": spot})
        Drawing.model_validate(done.drawing.model_dump())
        pieces = laid(done.drawing)
        assert len(pieces) == 2 and all(off(piece, whole) < (1e-9 if spot not in beside else 1e-4) for piece in pieces.values())


@pytest.mark.parametrize(("side", "aside"), [("out", 3.0), ("in", -1.2)])
def test_an_ellipse_is_offset_within_the_error_that_is_said(side: str, aside: float) -> None:
    """Steiner: a convex outline's parallel at d encloses A + L d + π d²; the ellipse's length by its elliptic integral."""
    drawing, name = an_ellipse()
    done = act(drawing, {"do": "offset", "names": [name], "distance": f"{abs(aside)}", "side": side})
    length = 4 * 10 * ellipe(1 - 0.4**2)
    want = 40 * math.pi + length * aside + math.pi * aside**2
    inner, outer = sorted((abs(want), 40 * math.pi))
    assert sorted(areas(done.drawing)) == pytest.approx(sorted((inner, outer - inner)), rel=1e-4)
    assert "spline fitted within 0.0" in done.words and done.solution.freedoms == 5
    source = laid(drawing)[name]
    assert isinstance(source, Ellipse2)
    for made in done.made:
        places = laid(done.drawing)[made].at(np.linspace(0, 1, 400))
        assert np.abs(apart(places, source) - abs(aside)).max() < 1.1e-3
    with pytest.raises(SketchError, match=r"bends to a radius of 1\.6 mm"):
        act(drawing, {"do": "offset", "names": [name], "distance": "2", "side": "in"})


def test_a_spline_is_offset_to_both_sides_and_capped() -> None:
    """Two sides of a run of length L at distance d with flat ends: an area of 2 d L."""
    drawing, name = a_spline()
    done = act(drawing, {"do": "offset", "names": [name], "distance": "1", "side": "both", "ends": "flat"})
    length = np.hypot(*np.diff(laid(drawing)[name].at(np.linspace(0, 1, 20001)), axis=0).T).sum()
    hidden = act(done.drawing, {"do": "construction", "names": [name]})
    assert areas(hidden.drawing) == [pytest.approx(2 * float(length), rel=1e-4)]
    tail = drawn("line", pick(30, 9, coincident=done.drawing.entities[name].through[-1]), pick(40, 9), on=drawing)  # type: ignore[union-attr]
    with pytest.raises(SketchError, match="offset by itself"):
        act(tail.drawing, {"do": "offset", "names": [name, tail.made[0]], "distance": "1", "side": "left"})
