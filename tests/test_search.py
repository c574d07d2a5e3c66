"""Searches among triangles against brute force (trimesh) and balls of known size."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from supplecast.search import Triangles


def soup(seed: int, count: int) -> np.ndarray:
    """Scattered triangles of all sizes; some lie on each other, some are needles or points."""
    drawn = np.random.default_rng(seed)
    corners = drawn.normal(size=(count, 1, 3)) * 10 + drawn.normal(size=(count, 3, 3)) * drawn.uniform(0.01, 5, (count, 1, 1))
    corners[::7, 2] = corners[::7, 1]
    corners[1::9] = corners[0]
    return corners


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 60))
def test_nearest_and_first_hit_are_those_of_trimesh(seed: int, count: int) -> None:
    corners = soup(seed, count)
    drawn = np.random.default_rng(seed + 1)
    places = drawn.normal(size=(20, 3)) * 12
    found = Triangles(corners).nearest(places)
    pairs = np.repeat(places, count, axis=0), np.tile(corners, (20, 1, 1))
    sound = trimesh.triangles.area(corners) > 1e-9
    feet = trimesh.triangles.closest_point(pairs[1], pairs[0]).reshape(20, count, 3)
    away = np.where(sound, np.linalg.norm(feet - places[:, None], axis=2), np.inf).min(axis=1)
    assert (found.away <= away + 1e-9).all()  # needles count too, which trimesh leaves undefined
    on_sound = sound[found.triangles]
    assert np.allclose(found.away[on_sound], away[on_sound], atol=1e-9)
    assert np.allclose(np.linalg.norm(found.feet - places, axis=1), found.away, atol=1e-12)

    directions = drawn.normal(size=(20, 3))
    which, far = Triangles(corners).hits(places, directions)
    for k in range(20):
        solved = []
        for a, b, c in corners[sound]:
            matrix = np.column_stack([directions[k], a - b, a - c])
            if abs(np.linalg.det(matrix)) > 1e-9:
                t, u, v = np.linalg.solve(matrix, a - places[k])
                if t > 0 and min(u, v, 1 - u - v) >= 0:
                    solved.append(t)
        assert far[k] == pytest.approx(min(solved, default=math.inf), rel=1e-6)
        assert (which[k] >= 0) == bool(solved)


def test_rays_never_slip_between_triangles() -> None:
    """From inside a closed ball every ray meets it, those through its edges and corners too."""
    ball = trimesh.creation.icosphere(subdivisions=3, radius=5)
    ends = np.concatenate([ball.vertices, ball.vertices[ball.edges_unique].mean(axis=1)])
    which, away = Triangles(ball.triangles).hits(np.zeros_like(ends), ends)
    assert (which >= 0).all() and np.allclose(away, 1.0, atol=1e-9)
    assert Triangles(ball.triangles).crossed(np.zeros((1, 3)), np.array([[0.0, 0.0, 9.0]])).all()
    assert not Triangles(ball.triangles).crossed(np.zeros((1, 3)), np.array([[0.0, 0.0, 4.0]])).any()


def test_balls_are_as_large_as_the_walls() -> None:
    """In a slab its thickness; in a rod its diameter; in the corner of two walls no more than what was asked for."""
    slab = Triangles(trimesh.creation.box((60, 40, 2)).triangles)
    places = np.column_stack([np.linspace(-20, 20, 9), np.linspace(-10, 10, 9), np.full(9, 1.0)])
    up = np.tile([0.0, 0.0, 1.0], (9, 1))
    sizes, touched = slab.balls(places, up, np.full(9, 8.0))
    assert np.allclose(sizes, 2.0) and np.allclose(touched[:, 2], -1.0)
    assert np.allclose(slab.balls(places, up, np.full(9, 1.5))[0], 1.5)  # the limit that was given
    rod = trimesh.creation.cylinder(radius=3, height=50, sections=256)
    spots = np.array([[3 * math.cos(a), 3 * math.sin(a), 0.1] for a in np.linspace(0.01, 6, 12)])
    normals = spots * (1, 1, 0) / 3
    assert np.allclose(Triangles(rod.triangles).balls(spots, normals, np.full(12, 20.0))[0], 6.0, rtol=1e-3)


def test_nothing_is_found_among_nothing() -> None:
    none = Triangles(np.empty((0, 3, 3)))
    assert none.nearest(np.zeros((2, 3))).triangles.tolist() == [-1, -1]
    assert not none.crossed(np.zeros((1, 3)), np.ones((1, 3))).any()
    one = Triangles(np.array([[[0.0, 0, 0], [1, 0, 0], [0, 1, 0]]]))
    assert one.nearest(np.array([[0.0, 0, 5]]), within=2.0).triangles.tolist() == [-1]
