"""Bodies grown by a gap: exact by Steiner's formula, everywhere as far off as asked, and said where they cannot be."""

from __future__ import annotations

import math
from typing import Any

import manifold3d
import numpy as np
import pytest

from supplecast import kernel
from supplecast.errors import KernelError
from supplecast.kernel import clearance, measure, mesh
from supplecast.kernel.shapes.shape import Solid
from tests.conftest import STEPS, TRAY, bodies, built, circle, extrude, part, rectangle


def _outline(*corners: tuple[float, float]) -> dict[str, Any]:
    count = len(corners)
    points = {f"p{k}": corner for k, corner in enumerate(corners)}
    lines = {f"L{k}": {"type": "line", "a": f"p{k}", "b": f"p{(k + 1) % count}"} for k in range(count)}
    return {"id": "s", "type": "sketch", "points": points, "entities": lines}


def _solid(*steps: dict[str, Any]) -> Solid:
    return list(bodies(part(list(steps))).values())[-1].body.solid


BOX = (rectangle("s", "30", "20"), extrude("e", "s", "10"))
ROUND_BOX = (
    rectangle("s", "30", "20"), extrude("e", "s", "12"),
    {"id": "f", "type": "fillet", "edges": [{"rule": "every"}], "radius": "3"},
)  # fmt: skip
ROD = (circle("s", "20"), extrude("e", "s", "30"))
STAIR = (_outline((0, 0), (30, 0), (30, 6), (20, 6), (20, 12), (10, 12), (10, 18), (0, 18)), extrude("e", "s", "20"))
_SLOTS = [corner for w, x in ((4, 24), (1.2, 15), (0.5, 7))
          for corner in ((x + w / 2, 10), (x + w / 2, 6), (x - w / 2, 6), (x - w / 2, 10))]  # fmt: skip
SLOTTED = (_outline((0, 0), (30, 0), (30, 10), *_SLOTS, (0, 10)), extrude("e", "s", "20"))


def _stair(gap: float) -> float:
    """The stair's own: its plan grows by s(t) = 360 + 96 t + (6 π/4 - 2) t², six corners turning out and two in."""

    def plan(t: float) -> float:
        return 360 + 96 * t + (1.5 * math.pi - 2) * t * t

    z, weights = np.polynomial.legendre.leggauss(60)
    heights = gap * (z + 1) / 2
    return 20 * plan(gap) + 2 * sum(
        w * gap / 2 * plan(math.sqrt(gap**2 - h * h)) for h, w in zip(heights, weights, strict=True)
    )


# Steiner's formula (1840): V + A·g + M·g² + 4π/3·g³, M the integral of mean curvature: π/4 a length of edge of a right angle.
GROWN = [
    (BOX, 1, "rounded", 6000 + 2200 + 60 * math.pi + 4 * math.pi / 3),
    (BOX, 1, "sharp", 32 * 22 * 12),
    (ROD, 1, "rounded", math.pi * (3000 + 800 + (30 + 10 * math.pi) + 4 / 3)),
    (ROD, 2, "sharp", math.pi * 12**2 * 34),
    (ROUND_BOX, 1, "rounded", 2016 + 1128 * 4 + math.pi * 44 * 16 + 4 * math.pi / 3 * 64),  # a smaller box and a larger ball
    (ROUND_BOX, 1, "sharp", 2016 + 1128 * 4 + math.pi * 44 * 16 + 4 * math.pi / 3 * 64),
    (STAIR, 1, "rounded", _stair(1)),
    (STAIR, 6, "rounded", _stair(6)),  # piece by piece
    (STAIR, 1, "sharp", 460 * 22),
    (SLOTTED, 1, "sharp", 32 * 12 * 22 - 2 * 4 * 22),
    (SLOTTED, 2, "sharp", 34 * 14 * 24),  # the widest slot is closed just so
    (SLOTTED, 3, "sharp", 36 * 16 * 26),
]


@pytest.mark.parametrize(("steps", "gap", "corners", "volume"), GROWN)
def test_bodies_grow_by_steiners_formula(steps: STEPS, gap: float, corners: Any, volume: float) -> None:
    made = clearance.grown(_solid(*steps), gap, corners)
    assert measure.volume(made.solid) == pytest.approx(volume, rel=1e-6 if corners == "rounded" else 1e-7)
    assert all(origin.role == "clear" for row in made.origins for origin in row)


@pytest.mark.parametrize("gap", [0.3, 1, 6])
def test_a_drafted_tray_keeps_its_distance_everywhere_as_another_engine_finds(gap: float) -> None:
    tray = _solid(*TRAY)
    made = clearance.grown(tray, gap)
    inner, outer = (_manifold(solid) for solid in (tray, made.solid))
    assert (inner - outer).volume() < 1e-6 * inner.volume()
    assert inner.min_gap(_shell(made.solid), 2 * gap) == pytest.approx(gap, abs=0.02 + 0.01 * gap)


def _manifold(solid: Solid) -> manifold3d.Manifold:
    meshed = mesh.tessellate(solid, 0.01, 0.1)
    points, index = np.unique(meshed.points.round(7), axis=0, return_inverse=True)
    triangles = index[meshed.triangles]
    keep = (triangles[:, 0] != triangles[:, 1]) & (triangles[:, 1] != triangles[:, 2]) & (triangles[:, 2] != triangles[:, 0])
    return manifold3d.Manifold(manifold3d.Mesh64(points, triangles[keep].astype(np.uint64)))


def _shell(solid: Solid) -> manifold3d.Manifold:
    """All that is outside of a body, as far as matters."""
    box = measure.loose_box(solid)
    size = [high - low + 20 for low, high in zip(box.low, box.high, strict=True)]
    return manifold3d.Manifold.cube(size).translate([low - 10 for low in box.low]) - _manifold(solid)


def test_a_hollow_inside_a_tool_counts_as_full() -> None:
    closed = _solid(*TRAY[:4], {"id": "shl", "type": "shell", "wall": "2.2 mm", "open": []})
    full = _solid(*TRAY[:4])
    assert measure.volume(clearance.grown(closed, 1).solid) == pytest.approx(measure.volume(clearance.grown(full, 1).solid))


def test_what_does_not_fit_is_refused_with_its_reason() -> None:
    for gap in (0, -1):
        with pytest.raises(KernelError, match="greater than zero"):
            clearance.grown(_solid(*BOX), gap)


NEST: STEPS = [
    rectangle("o", "60", "60"), extrude("blk", "o", "20"),
    rectangle("i", "30", "20", on={"plane": "top", "offset": "15"}), extrude("bar", "i", "10"),
]  # fmt: skip


def _nest(**more: Any) -> dict[str, Any]:
    return {"id": "cut", "type": "subtract", "body": "blk", "tools": ["bar"], "keep": "keep", **more}


def test_a_pocket_with_a_gap_holds_its_names_and_a_fillet_on_it() -> None:
    round_it = {"id": "f", "type": "fillet", "edges": [{"rule": "made by", "of": "cut"}], "radius": "0.5 mm"}
    # The bar lies half in the block, so half of what it grows to is taken.
    for corners, taken in (("sharp", 31 * 21 * 11 / 2), ("rounded", (6000 + 1100 + 15 * math.pi + math.pi / 6) / 2)):
        result = built(part([*NEST, _nest(gap="0.5 mm", corners=corners)]))
        assert result.ok, [o.message for o in result.outcomes]
        block, bar = (result.state.bodies[name].body for name in ("blk", "bar"))
        assert 60 * 60 * 20 - measure.volume(block.solid) == pytest.approx(taken, rel=1e-6)
        assert kernel.nearness.between(block.solid, bar.solid) == pytest.approx(0.5, abs=1e-6)
        assert any(tag.startswith("cut.clear{bar.") for tags in block.tags for tag in tags)
    changed = built(part([*NEST, _nest(gap="0.5 mm", corners="sharp"), round_it]))
    assert changed.ok, [o.message for o in changed.outcomes]


def test_a_gap_is_said_and_its_faults_name_it() -> None:
    plain, clear = (part([*NEST, _nest(**more)]).step("cut") for more in ({}, {"gap": "0.3 mm"}))
    for gap, said in (("0 mm", False), ("", False), ("0.0", False), ("room", True), ("wall in", True), (".2", True)):
        assert ("{corners}" in part([*NEST, _nest(gap=gap)]).step("cut").sentence()) == said
    assert "gap {gap}, " in plain.sentence() and "gap {gap} with edges {corners}" in clear.sentence()
    assert not any("edges" in part([*NEST, _nest(gap=gap)]).step("cut").sentence() for gap in ("0", "0.0", "0mm", "0.00 in"))
    for gap, words in (
        ("-1", "cannot be negative (-1 mm)"),
        ("200 m", "is over 100 m (200000 mm)."),
        ("x", "no value named"),
        ("40 mm", "leaves nothing"),
    ):
        outcome = built(part([*NEST, _nest(gap=gap)])).outcomes[-1]
        assert (outcome.status, outcome.field) == ("failed", "gap") and words in outcome.message, outcome.message
