"""A body cut by a plane: outlines that close and bound what triangles say, walls across them, files that stand upright."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from pathlib import Path

import ezdxf
import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from svgpathtools import svgstr2paths

from supplecast.curves import Arc2, Curve2
from supplecast.document.model import Document, parse_document
from supplecast.errors import SuppleError
from supplecast.geometry import Floats, Frame, Vec
from supplecast.kernel import flatten
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.verbs.solid import box
from supplecast.molding.section import across
from supplecast.wire.options import SectionFile
from supplecast.workers.verbs import sectioning
from tests.bed.parts import BEDS
from tests.conftest import bodies, circle, extrude, part, rectangle
from tests.referee.meshes import manifold
from tests.referee.tasks import task

SHEETS = Path(__file__).parent / "sheets"
ROUNDED = [rectangle("s", "40", "30"), extrude("e", "s", "20"), {"id": "u", "type": "fillet", "radius": "6"}]
ROUNDED[2]["edges"] = [{"rule": "uprights", "of": "e"}]


def rounded() -> Solid:
    return bodies(part(ROUNDED))["e"].body.solid


def loops(curves: list[Curve2]) -> list[Floats]:
    """Closed runs of points along curves that share their ends to 1e-9; an AssertionError where one does not close."""

    def meets(run: Floats, end: Floats) -> bool:
        return bool(np.abs(run[0] - end).max() < 1e-9)

    left = [curve.sampled(300) for curve in curves]
    closed = []
    while left:
        run = left.pop()
        while not meets(run, run[-1]):
            ahead = [piece for piece in left if meets(piece, run[-1])] + [
                piece for piece in left if meets(piece[::-1], run[-1])
            ]
            assert ahead, f"open at {run[-1]}"
            left = [piece for piece in left if piece is not ahead[0]]
            run = np.concatenate([run, ahead[0] if meets(ahead[0], run[-1]) else ahead[0][::-1]])
        closed.append(run)
    return closed


def enclosed(curves: list[Curve2]) -> float:
    """mm² inside an outline and outside of its holes, by shapely."""
    whole = shapely.Polygon()
    for run in loops(curves):
        whole = whole.symmetric_difference(shapely.Polygon(run))
    return float(whole.area)


def cut_area(body: manifold3d.Manifold, frame: Frame) -> float:
    """mm² of the cut of a body's triangles."""
    turn = np.array([frame.x, frame.y, frame.normal])
    return float(body.transform(np.column_stack([turn, -turn @ frame.origin])).slice(0.0).area())


PLANES: list[Vec] = [(1, 0, 0), (0, 1, 0), (0, 0, 1), (0.3, -0.5, 0.81), (0.7, 0.2, 0.1)]


SAMPLES = {path.name.split(".")[0]: lambda path=path: parse_document(path.read_bytes()) for path in sorted(SHEETS.iterdir())}
SAMPLES |= {f"bed {bed.name}": lambda bed=bed: bed.document(bed.base) for bed in BEDS}


@pytest.mark.parametrize("sample", SAMPLES.values(), ids=SAMPLES)
def test_an_outline_bounds_what_the_triangles_say(sample: Callable[[], Document]) -> None:
    """mm², by manifold3d's slices of the body's triangles; every outline closes."""
    document = sample()
    for entry in bodies(document).values():
        body = manifold(entry.body.solid, 0.01, 0.1)
        low, high = np.split(np.array(body.bounding_box()), 2)
        middle = low + (high - low) * (0.47, 0.53, 0.51)
        for normal in PLANES:
            frame = Frame.lying((float(middle[0]), float(middle[1]), float(middle[2])), normal)
            curves = flatten.section(entry.body.solid, frame)
            assert enclosed(curves) == pytest.approx(cut_area(body, frame), rel=3e-3)


@pytest.mark.parametrize("axis", range(3))
@pytest.mark.parametrize("sense", [-1, 1])
def test_a_rounded_box_is_cut_in_quarter_rounds(axis: int, sense: int) -> None:
    """40 × 30 with corners of 6: 1200 − (4 − π) 36 mm² across z; its rounds, cut where they begin, still close."""
    solid = rounded()
    normal: Vec = tuple(float(sense * (i == axis)) for i in range(3))  # type: ignore[assignment]
    curves = flatten.section(solid, Frame.lying((0, 0, 10), normal))
    arcs = [curve for curve in curves if isinstance(curve, Arc2)]
    assert [abs(arc.sweep) for arc in arcs] == pytest.approx([math.pi / 2] * (4 if axis == 2 else 0))
    assert enclosed(curves) == pytest.approx((30 * 20, 40 * 20, 1200 - (4 - math.pi) * 36)[axis], rel=1e-4)
    assert enclosed(flatten.section(solid, Frame.lying((14, 9, 10), normal))) > 500


def cut(document: Document, frame: Frame) -> list[Curve2]:
    return flatten.section(bodies(document)["e"].body.solid, frame)


def test_walls_across_a_cut() -> None:
    """The floor is 2 mm, walls are 2 mm square to their lean; outside of the material there is none."""
    tray = part(
        [
            rectangle("s", "60", "40"),
            extrude("e", "s", "20", direction="down", draft="2"),
            {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "6"},
            {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.start"}]},
        ]
    )
    frame = Frame.lying((0, 0, 0), (0, 1, 0))
    curves = cut(tray, frame)

    def at(x: float, z: float) -> float | None:
        ends = across(curves, frame.flat((x, 0.0, z)))
        return None if ends is None else math.dist(*ends)

    assert at(3.3, -19.2) == pytest.approx(2.0, abs=1e-9)
    assert at(28.6, -10) == pytest.approx(2.0, abs=1e-9)
    assert at(0, -5) is None and at(80, 0) is None


@settings(max_examples=30, deadline=None)
@given(st.floats(0.05, 5.9), st.floats(0.0, 2 * math.pi))
def test_walls_across_a_ring_are_its_thickness(into: float, turn: float) -> None:
    """Wherever a ring of radii 14 and 20 is asked (closed form)."""
    ring = part([circle("s", "40"), circle("i", "28"), extrude("e", "s", "10"), extrude("x", "i", "10", result="cut")])
    curves = cut(ring, Frame.lying((0, 0, 5), (0, 0, 1)))
    radius = 14 + into
    ends = across(curves, (radius * math.cos(turn), radius * math.sin(turn)))
    assert ends is not None and math.dist(*ends) == pytest.approx(6.0, abs=1e-7)


def test_a_slanting_cut_of_a_box_has_the_area_of_its_shadow_over_the_cosine() -> None:
    """60 × 40 cut at 30° to the horizontal: the outline is a rectangle of 60 / cos 30° by 40 (closed form)."""
    frame = Frame.lying((0, 0, 50), (math.sin(math.radians(30)), 0, math.cos(math.radians(30))))
    curves = flatten.section(box((-30, -20, 0), (30, 20, 100)).solid, frame)
    points = np.concatenate([curve.sampled(2) for curve in curves])
    assert np.ptp(points[:, 0]) == pytest.approx(60 / math.cos(math.radians(30))) and np.ptp(points[:, 1]) == pytest.approx(40)
    ends = across(curves, (0.0, 0.0))
    assert ends is not None and math.dist(*ends) == pytest.approx(40)


@pytest.mark.parametrize(
    ("towards", "right", "up"),
    [
        ((0, -1, 0), (10, 50), (-20, 0)),
        ((0, 1, 0), (-50, -10), (-20, 0)),
        ((1, 0, 0), (3, 33), (-20, 0)),
        ((-1, 0, 0), (-33, -3), (-20, 0)),
        ((0, 0, 1), (10, 50), (3, 33)),
        ((0, 0, -1), (-50, -10), (3, 33)),
    ],
)
def test_a_file_shows_the_cut_upright_as_it_is_seen(tmp_path: Path, towards: Vec, right: Vec, up: Vec) -> None:
    """A block from (10, 3, −20) to (50, 33, 0): seen from the front its right is +x and its up +z, and so all round."""
    document = part([rectangle("s", "40", "30", x="30", y="18"), extrude("e", "s", "20", direction="down")])

    def content(format: str) -> str:
        asked = SectionFile((30, 18, -10), towards, format)  # type: ignore[arg-type]
        return (tmp_path / sectioning.section_file(task(document, tmp_path), asked).blob).read_text()

    lines = ezdxf.read(io.StringIO(content("dxf"))).modelspace()
    points = np.array([(p.x, p.y) for line in lines for p in (line.dxf.start, line.dxf.end)])
    assert points.min(axis=0) == pytest.approx((right[0], up[0])) and points.max(axis=0) == pytest.approx((right[1], up[1]))
    paths, _ = svgstr2paths(content("svg"))
    places = [end for path in paths for piece in path for end in (piece.start, piece.end)]
    assert min(-p.imag for p in places) == pytest.approx(up[0]) and max(p.real for p in places) == pytest.approx(right[1])


def test_a_plane_beside_all_bodies_is_refused(tmp_path: Path) -> None:
    with pytest.raises(SuppleError, match="cuts no body"):
        sectioning.section_file(task(part(ROUNDED), tmp_path), SectionFile((0, 99, 0), (0, 1, 0), "svg"))
