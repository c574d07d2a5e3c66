"""How warm the wall of a cavity is over its coolant, against closed forms."""

from __future__ import annotations

import math

import numpy as np
import pytest

from supplecast.geometry import Bar, Floats
from supplecast.molding import chill
from supplecast.molding.gauges.heat import Chilled, heat
from supplecast.molding.judge import Skin
from supplecast.molding.sampled import Sampled
from supplecast.search import Triangles
from supplecast.tooling.coolant import CONDUCTS_STEEL
from tests.conftest import TRAY, bodies
from tests.conftest import part as document


def _tube(radius: float, length: float, across: int = 48, along: int = 160) -> Sampled:
    """The round skin of a cylinder about x, from -length / 2 on, without its ends."""
    turn, xs = np.linspace(0, 2 * math.pi, across + 1), np.linspace(-length / 2, length / 2, along + 1)
    grid = np.array([[(x, radius * math.cos(t), radius * math.sin(t)) for t in turn] for x in xs])
    quads = [(grid[i, j], grid[i + 1, j], grid[i + 1, j + 1], grid[i, j + 1]) for i in range(along) for j in range(across)]
    corners = np.array([tri for a, b, c, d in quads for tri in ((a, b, c), (a, c, d))])
    middles = corners.mean(axis=1)
    normals = middles * [0, 1, 1] / np.linalg.norm(middles[:, 1:], axis=1, keepdims=True)
    return Sampled(corners, middles, normals, np.zeros(len(corners), dtype=int), Triangles(corners), 0.01)


def _between(skin: Sampled, rows: Floats, far: float) -> float:
    return float(rows[np.abs(skin.middles[:, 0]) < far].mean())


def test_a_bore_in_the_middle_of_a_tube_is_the_textbooks_cylinder() -> None:
    """Heat q' per length from radius R to radius r: q' ln(R / r) / (2 π k), and q' / (2 π r h) through the film (any textbook).
    800 mm long and looked at in the middle, where the ends tell little.
    """
    skin = _tube(30.0, 800.0)
    part = chill.heated(skin, np.ones(len(skin.corners)))
    power, film = 800.0, 5000.0
    (warm,) = chill.over_water([part], [Bar((-400, 0, 0), (400, 0, 0), 4.0)], power, film)
    per_metre = power / 0.8
    conducted = per_metre * math.log(30 / 4) / (2 * math.pi * CONDUCTS_STEEL)
    through = per_metre / (2 * math.pi * 0.004 * film)
    assert _between(skin, warm, 100.0) == pytest.approx(conducted + through, rel=0.03)  # patches are soft


def test_what_lies_farther_from_the_bores_is_warmer_and_all_heat_is_taken() -> None:
    """Two bores beside a tube: nearer ones and more of them cool better; twice the power is twice as warm, everywhere."""
    skin = _tube(10.0, 100.0, 24, 40)
    part = chill.heated(skin, np.ones(len(skin.corners)))

    def warm(*places: tuple[float, float], power: float = 100.0) -> Floats:
        return chill.over_water([part], [Bar((-80, y, z), (80, y, z), 4.0) for y, z in places], power, 5000.0)[0]

    one, two, far = warm((30, 0)), warm((30, 0), (-30, 0)), warm((50, 0))
    side = skin.middles[:, 1]
    assert one[side < -9].mean() > one[side > 9].mean() + 1.0
    assert two.mean() < one.mean() < far.mean()
    assert two[side < -9].mean() == pytest.approx(two[side > 9].mean(), abs=1e-6)
    assert warm((30, 0), power=200.0) == pytest.approx(2 * one)
    with pytest.raises(ValueError, match="no bores"):
        chill.over_water([part], [], 100.0, 5000.0)


def test_the_gauge_finds_the_side_that_has_no_bores() -> None:
    """A tray cooled from below only, then from one end only: there the other end is told."""
    (entry,) = bodies(document(TRAY)).values()
    solid = entry.body.solid
    skins = {"a": ("Part", Skin(solid))}
    below = [Bar((-80, y, -45), (80, y, -45), 4.0) for y in (-30.0, 0.0, 30.0)]
    aside = [Bar((60, -60, z), (60, 60, z), 4.0) for z in (-10.0, 10.0)]
    (even, rows), (told, _) = (heat(Chilled(skins, bores, 1500.0, 8000.0)) for bores in (below, aside))
    assert rows["a"].shape == (len(skins["a"][1].places.corners),)
    assert told.state == "doubt" and told.offenders[0].place[0] < 0
    assert float(even.value[1:]) < float(told.value[1:])
