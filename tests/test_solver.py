"""The sketch solver: freedoms counted by hand, gradients by differences, places by an independent solver, clashes by name."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import least_squares

from supplecast.errors import SketchError
from supplecast.quantities import Scope
from supplecast.sketch import solver
from supplecast.sketch.model import Arc, Circle, Constraint, Drawing, Line
from supplecast.sketch.newton import newton
from supplecast.sketch.system import System


def size(name: str, constraint: Constraint) -> float:
    return Scope({}, "mm").evaluate(constraint.value or "0", "angle" if constraint.type == "angle" else "length")


def drawing(points: dict[str, tuple[float, float]], entities: dict[str, Any], *held: tuple[Any, ...]) -> Drawing:
    """`held` rows: type, what it is on, and the value where there is one."""
    constraints = {
        f"k{i}": Constraint(type=row[0], on=tuple(row[1].split()), value=row[2] if len(row) > 2 else None)
        for i, row in enumerate(held, 1)
    }
    made = Drawing(points=points, entities=entities, constraints=constraints)
    assert made.faults() == ""
    return made


CORNERS = {"a": (0.0, 0.0), "b": (40.0, 1.0), "c": (41.0, 30.0), "d": (0.5, 29.0)}
SIDES = {"L1": Line(a="a", b="b"), "L2": Line(a="b", b="c"), "L3": Line(a="c", b="d"), "L4": Line(a="d", b="a")}
UPRIGHT = (("horizontal", "L1"), ("vertical", "L2"), ("horizontal", "L3"), ("vertical", "L4"))
SQUARE = tuple(("perpendicular", f"L{i} L{i % 4 + 1}") for i in range(1, 5))
SLOT_POINTS = {"a": (0.0, 0.0), "b": (30.0, 0.0), "c": (30.0, 8.0), "d": (0.0, 8.0), "m": (30.0, 4.0), "n": (0.0, 4.0)}
SLOT = {"L1": Line(a="a", b="b"), "L2": Line(a="c", b="d"), "A1": Arc(c="m", a="b", b="c"), "A2": Arc(c="n", a="d", b="a")}
ROUNDED = (("tangent", "L1 A1 b"), ("tangent", "L2 A1 c"), ("tangent", "L2 A2 d"), ("tangent", "L1 A2 a"))
HEXAGON = {f"p{i}": (10 * math.cos(i * math.pi / 3), 10 * math.sin(i * math.pi / 3)) for i in range(6)}
HEX_SIDES = {f"L{i}": Line(a=f"p{i}", b=f"p{(i + 1) % 6}") for i in range(6)}

# Freedoms counted by hand: two for each point, one for each radius, less what is said and not said already.
COUNTED = [
    ("a line", drawing({"p": (0, 0), "q": (9, 1)}, {"L": Line(a="p", b="q")}), 4, 0),
    ("a circle", drawing({"p": (0, 0)}, {"C": Circle(c="p", r=5)}), 3, 0),
    ("an arc", drawing({"c": (0, 0), "p": (5, 0), "q": (0, 5)}, {"A": Arc(c="c", a="p", b="q")}), 5, 0),
    ("a rectangle, upright", drawing(CORNERS, SIDES, *UPRIGHT), 4, 0),
    (
        "sized and fixed",
        drawing(CORNERS, SIDES, *UPRIGHT, ("distance", "a b", "40"), ("distance", "b c", "30"), ("fix", "a")),
        0,
        0,
    ),
    ("square at every corner", drawing(CORNERS, SIDES, *SQUARE), 5, 1),
    ("a slot", drawing(SLOT_POINTS, SLOT, *ROUNDED, ("equal", "A1 A2")), 5, 0),
    ("a slot said to be parallel", drawing(SLOT_POINTS, SLOT, *ROUNDED, ("equal", "A1 A2"), ("parallel", "L1 L2")), 5, 1),
    ("a hexagon of equal sides", drawing(HEXAGON, HEX_SIDES, *[("equal", f"L0 L{i}") for i in range(1, 6)]), 7, 0),
    ("a point on a circle", drawing({"c": (0, 0), "p": (5, 1)}, {"C": Circle(c="c", r=5)}, ("on", "p C")), 4, 0),
    ("a point on a line", drawing({"a": (0, 0), "b": (9, 0), "p": (5, 1)}, {"L": Line(a="a", b="b")}, ("on", "p L")), 5, 0),
    (
        "concentric",
        drawing({"c": (0, 0), "d": (1, 1)}, {"C": Circle(c="c", r=5), "D": Circle(c="d", r=3)}, ("concentric", "C D")),
        4,
        0,
    ),
    (
        "touching circles",
        drawing({"c": (0, 0), "d": (9, 1)}, {"C": Circle(c="c", r=5), "D": Circle(c="d", r=3)}, ("tangent", "C D")),
        5,
        0,
    ),
    (
        "a circle touching a line",
        drawing(
            {"a": (0, 0), "b": (20, 0), "c": (9, 6)}, {"L": Line(a="a", b="b"), "C": Circle(c="c", r=5)}, ("tangent", "L C")
        ),
        6,
        0,
    ),
    (
        "two arcs that run on",
        drawing(
            {"c": (0, 0), "p": (5, 0), "q": (0, 5), "d": (0, 9), "r": (4, 9)},
            {"A": Arc(c="c", a="p", b="q"), "B": Arc(c="d", a="q", b="r", cw=True)},
            ("tangent", "A B q"),
        ),
        7,
        0,
    ),
    ("collinear", drawing(CORNERS, SIDES, ("collinear", "L1 L3")), 6, 0),
    (
        "mirrored",
        drawing({"a": (0, 0), "b": (0, 9), "p": (-4, 3), "q": (5, 3)}, {"L": Line(a="a", b="b")}, ("symmetric", "p q L")),
        6,
        0,
    ),
    ("sizes that agree", drawing(CORNERS, SIDES, *UPRIGHT, ("distance", "a b", "40"), ("distance", "d c", "40")), 3, 1),
    ("equal twice", drawing(CORNERS, SIDES, ("equal", "L1 L3"), ("equal", "L3 L1")), 7, 1),
    ("level twice", drawing(CORNERS, SIDES, ("horizontal", "L1"), ("level", "a b")), 7, 1),
    ("distance to a line", drawing(CORNERS, SIDES, ("distance", "d L1", "25")), 7, 0),
    ("angle between lines", drawing(CORNERS, SIDES, ("angle", "L1 L2", "80")), 7, 0),
]


@pytest.mark.parametrize(("made", "freedoms", "twice"), [row[1:] for row in COUNTED], ids=[row[0] for row in COUNTED])
def test_freedoms_are_what_a_hand_counts(made: Drawing, freedoms: int, twice: int) -> None:
    found = solver.solve(made, size)
    assert found.misfit < 1e-9
    assert (found.freedoms, len(found.doubled)) == (freedoms, twice)
    assert (found.freedoms == 0) == (not found.loose)


def test_gradients_match_differences() -> None:
    for name, made, _, _ in COUNTED:
        system = System(made, size, merged=False)
        z = system.z + np.random.default_rng(3).normal(0, 0.2, len(system.z))
        gradient = system.dense(system.evaluate(z)[1]) if system.count else np.zeros((0, len(z)))
        for column in range(len(z)):
            step = np.zeros(len(z))
            step[column] = 1e-6
            difference = (system.evaluate(z + step)[0] - system.evaluate(z - step)[0]) / 2e-6
            assert np.abs(difference - gradient[:, column]).max(initial=0.0) < 2e-7 * max(1, np.abs(gradient).max(initial=0)), (
                name
            )


@pytest.mark.parametrize("row", COUNTED, ids=[row[0] for row in COUNTED])
def test_another_solver_finds_nothing_nearer(row: tuple[Any, ...]) -> None:
    """scipy's least squares, started at our answer, stays there: it is a solution by other equations' reckoning too."""
    system = System(row[1], size, merged=False)
    z, _ = newton(System(row[1], size))
    places = solver.scalar_values(System(row[1], size), z)
    start = np.array([places[name] for name in system.start])
    if not system.count:
        return
    reference = least_squares(lambda x: system.evaluate(x)[0], start, method="trf", xtol=1e-14, ftol=1e-14, gtol=1e-14)
    assert reference.cost < 1e-18 and np.abs(reference.x - start).max() < 1e-6


CLASHES = [
    (
        "rectangle 40 and 41 wide",
        drawing(CORNERS, SIDES, *UPRIGHT, ("distance", "a b", "40"), ("distance", "d c", "41")),
        ["length 41", "length 40"],
        1.0,
    ),
    (
        "level, upright and long",
        drawing(
            {"p": (0, 0), "q": (9, 1)},
            {"L": Line(a="p", b="q")},
            ("horizontal", "L"),
            ("vertical", "L"),
            ("distance", "p q", "9"),
        ),
        ["length 9", "vertical"],
        None,
    ),
    (
        "two radii made equal",
        drawing(
            {"c": (0, 0), "d": (20, 0)},
            {"C": Circle(c="c", r=5), "D": Circle(c="d", r=6)},
            ("radius", "C", "5"),
            ("radius", "D", "6"),
            ("equal", "C D"),
        ),
        ["equal", "radius 6"],
        1.0,
    ),
]


@pytest.mark.parametrize(("made", "named", "misfit"), [row[1:] for row in CLASHES], ids=[row[0] for row in CLASHES])
def test_what_clashes_is_named_youngest_first(made: Drawing, named: list[str], misfit: float | None) -> None:
    with pytest.raises(SketchError, match="contradict") as fault:
        solver.solve(made, size)
    for words in named:
        assert words in str(fault.value).lower()
    assert str(fault.value).lower().startswith(named[0])


def test_a_size_out_of_reach_says_how_far_it_goes() -> None:
    """A triangle 10–6–c: the third side cannot exceed 16; asked for 20 it says so."""
    sides = {"L1": Line(a="a", b="b"), "L2": Line(a="b", b="c"), "L3": Line(a="c", b="a")}
    made = drawing({"a": (0, 0), "b": (10, 0), "c": (8, 5.7)}, sides, ("fix", "a"), ("horizontal", "L1"),
                   ("distance", "a b", "10"), ("distance", "b c", "6"), ("distance", "c a", "20"))  # fmt: skip
    solved = solver.solve(
        made.model_copy(update={"constraints": {k: v for k, v in made.constraints.items() if k != "k5"}}), size
    )
    placed = made.model_copy(update={"points": {name: solved.points[name] for name in made.points}})
    with pytest.raises(SketchError, match=r"only up to about 1[56]") as fault:
        solver.solve(placed, size)
    assert "Distance 20" in fault.value.message


def test_a_round_keeps_its_side_when_its_sizes_jump() -> None:
    """Without signs the tangent circle could settle under the line."""
    made = drawing({"a": (0, 0), "b": (20, 0), "c": (9, 6)}, {"L": Line(a="a", b="b"), "C": Circle(c="c", r=5)},
                   ("fix", "a"), ("fix", "b"), ("tangent", "L C"), ("radius", "C", "40"))  # fmt: skip
    assert solver.solve(made, size).points["c"][1] == pytest.approx(40)


def test_driven_sizes_are_measured_and_hold_nothing() -> None:
    made = drawing(CORNERS, SIDES, *UPRIGHT, ("distance", "a b", "40"))
    made.constraints["free"] = Constraint(type="distance", on=("b", "c"), value="1", driven=True)
    found = solver.solve(made, size)
    assert found.freedoms == 3
    assert found.driven["free"] == pytest.approx(math.dist(found.points["b"], found.points["c"]))


def test_loose_parts_are_told_from_fixed_ones() -> None:
    made = drawing({**CORNERS, "p": (60, 0), "q": (70, 5)}, {**SIDES, "M": Line(a="p", b="q")}, *UPRIGHT,
                   ("distance", "a b", "40"), ("distance", "b c", "30"), ("fix", "a"), ("fix", "p"))  # fmt: skip
    found = solver.solve(made, size)
    assert found.freedoms == 2 and found.loose == {"q"}


def test_a_singular_place_is_not_called_said_twice() -> None:
    """A triangle of 4, 6 and 10 is flat: rank is short there, though nothing is doubled."""
    sides = {"L1": Line(a="a", b="b"), "L2": Line(a="b", b="c"), "L3": Line(a="c", b="a")}
    made = drawing({"a": (0, 0), "b": (4, 0), "c": (10, 0)}, sides, ("distance", "a b", "4"), ("distance", "b c", "6"),
                   ("distance", "a c", "10"))  # fmt: skip
    assert solver.solve(made, size).doubled == ()


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.1, 1.0))
def test_a_disturbed_shape_comes_back(seed: int, sigma: float) -> None:
    """A fully fixed slot, every point pushed about: the same shape is found again."""
    held = [("equal", "A1 A2"), ("fix", "m"), ("horizontal", "L1"), ("distance", "m n", "30"), ("radius", "A1", "4")]
    made = drawing(SLOT_POINTS, SLOT, *ROUNDED, *held)
    exact = solver.solve(made, size)
    assert exact.freedoms == 0
    rng = np.random.default_rng(seed)
    pushed = {
        n: (x + rng.normal(0, sigma), y + rng.normal(0, sigma)) if n != "m" else (x, y) for n, (x, y) in SLOT_POINTS.items()
    }
    found = solver.solve(made.model_copy(update={"points": pushed}), size)
    for name in SLOT_POINTS:
        assert found.points[name] == pytest.approx(exact.points[name], abs=1e-6)


def test_many_entities_are_solved_through_the_band() -> None:
    """A chain of 200 lines, each 5 long and turned by 10° more: the places are known in closed form."""
    points = {f"p{i}": (4.0 * i, 0.3 * (i % 7)) for i in range(201)}
    lines = {f"L{i}": Line(a=f"p{i}", b=f"p{i + 1}") for i in range(200)}
    heading = [10.0 * math.sin(i / 9) for i in range(200)]
    held = [("distance", f"p{i} p{i + 1}", "5") for i in range(200)] + [
        ("angle", f"L{i}", f"{heading[i]!r}") for i in range(200)
    ]
    found = solver.solve(drawing(points, lines, ("fix", "p0"), *held), size)
    assert found.freedoms == 0 and found.misfit < 1e-9
    end = np.sum([[5 * math.cos(math.radians(h)), 5 * math.sin(math.radians(h))] for h in heading], axis=0)
    assert found.points["p200"] == pytest.approx(tuple(end), abs=1e-6)
