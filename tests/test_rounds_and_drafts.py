"""Fillets of several radii, chamfers of all kinds and drafts by rule and both ways: closed forms."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest
from scipy.spatial import ConvexHull, HalfspaceIntersection

from supplecast.errors import KernelError
from supplecast.kernel import blend, boolean, check, measure, solid
from supplecast.kernel.shapes.shape import Solid
from tests.conftest import STEPS, bodies, built, chain, circle, extrude, part, rectangle

BOX: STEPS = [rectangle("s", "40", "30"), extrude("e", "s", "20")]
SIDE = {"edge": ["e.end", "e.side[f1_L1]"]}
OTHER = {"edge": ["e.end", "e.side[f1_L3]"]}
UPRIGHT = {"edge": ["e.side[f1_L1]", "e.side[f1_L2]"]}


def made(*steps: dict[str, Any]) -> Solid:
    solid = bodies(part([*BOX, *steps]))["e"].body.solid
    assert not check.faults(solid)
    return solid


def fillet(**fields: Any) -> dict[str, Any]:
    return {"id": "f", "type": "fillet", "radius": "3", "edges": [SIDE], **fields}


def test_several_radii_at_once() -> None:
    """Each straight edge loses (1 − π/4) r² of its section; a corner where three radii meet is sound."""
    apart = made(fillet(others=[{"edges": [OTHER], "radius": "5"}]))
    assert measure.volume(apart) == pytest.approx(24000 - (1 - math.pi / 4) * 40 * (9 + 25), rel=1e-9)
    assert made(fillet(others=[{"edges": [UPRIGHT], "radius": "6"}, {"edges": [OTHER], "radius": "2"}])).face_count > 8
    every = made(fillet(edges=[{"rule": "every"}], radius="4"))
    a, b, c = 32, 22, 12  # Steiner
    steiner = a * b * c + 8 * (a * b + b * c + c * a) + math.pi * 16 * (a + b + c) + 4 / 3 * math.pi * 64
    assert measure.volume(every) == pytest.approx(steiner, rel=1e-6)


@pytest.mark.parametrize(
    ("fields", "field"),
    [
        ({"others": [{"edges": [OTHER], "radius": "31"}]}, "others.0.radius"),
        ({"radius": "31", "others": [{"edges": [OTHER]}]}, "radius"),
        ({"others": [{"edges": []}]}, "others.0.edges"),
        ({"others": [{"edges": [OTHER], "radius": "-1"}]}, "others.0.radius"),
    ],
)
def test_a_radius_that_does_not_fit_names_its_row(fields: dict[str, Any], field: str) -> None:
    outcome = built(part([*BOX, fillet(**fields)])).outcome("f")
    assert outcome.status == "failed" and outcome.field == field


def test_a_fillet_whose_contour_the_kernel_drops_is_refused_in_words() -> None:
    """It counts one faulty contour more than it still has; asked about that one, it would take the process with it."""
    pad = boolean.fuse(solid.box((0, 0, 0), (30, 20, 10)).solid, [solid.box((10, 6, 8), (18, 12, 14)).solid]).solid
    with pytest.raises(KernelError, match="does not fit where these edges meet") as fault:
        blend.fillet(pad, range(0, 24, 2), 0.5)
    assert fault.value.edges == tuple(range(0, 24, 2))


@pytest.mark.parametrize(
    ("fields", "off_top", "off_side"),
    [
        ({"distance": "1.5"}, 1.5, 1.5),
        ({"how": "by two distances", "distance": "1", "second": "2.5"}, 1, 2.5),
        ({"how": "by two distances", "distance": "1", "second": "2.5", "turned": "from the upright face"}, 2.5, 1),
        ({"how": "by a distance and an angle", "distance": "2", "angle": "30"}, 2, 2 * math.tan(math.radians(30))),
    ],
)
def test_chamfers_take_a_triangle_away(fields: dict[str, Any], off_top: float, off_side: float) -> None:
    solid = made({"id": "c", "type": "chamfer", "edges": [SIDE], **fields})
    assert measure.volume(solid) == pytest.approx(24000 - 40 * off_top * off_side / 2, rel=1e-9)
    flats = [f for f in range(solid.face_count) if measure.flat_frame(solid, f).normal[2] > 0.999]
    assert measure.face_area(solid, flats[0]) == pytest.approx(40 * (30 - off_top))


def frustum(width: float, depth: float, height: float, degrees: float) -> float:
    """Prismatoid formula: V = h/6 (A0 + 4 Am + A1)."""
    t = math.tan(math.radians(degrees))
    ends = [(width - 2 * z * t) * (depth - 2 * z * t) for z in (0, height / 2, height)]
    return height / 6 * (ends[0] + 4 * ends[1] + ends[2])


def draft(**fields: Any) -> dict[str, Any]:
    return {"id": "d", "type": "draft", "which": "all side faces", "angle": "3", **fields}


MIDDLE = {"plane": "top", "offset": "8"}
SHELL = {"id": "h", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]}
RIM = {"plane": "top", "offset": "20"}


def test_all_sides_lean_one_way_or_from_a_plane_both_ways() -> None:
    assert measure.volume(made(draft())) == pytest.approx(frustum(40, 30, 20, 3), rel=1e-9)
    split = made(draft(ways="both ways", neutral=MIDDLE))
    assert measure.volume(split) == pytest.approx(frustum(40, 30, 8, 3) + frustum(40, 30, 12, 3), rel=1e-9)
    assert split.face_count == 10
    one = made(draft(which="the faces", faces=[{"face": "e.side[f1_L1]"}], ways="both ways", neutral=MIDDLE))
    t = math.tan(math.radians(3))
    assert measure.volume(one) == pytest.approx(24000 - 40 * t * (8**2 + 12**2) / 2, rel=1e-9)


@pytest.mark.parametrize(
    "result, volume", [("add", 24000 + math.pi * 8 * (5**2 + 5 * 4 + 4**2) / 3), ("cut", 24000 - math.pi * 8 * 37 / 3)]
)
def test_a_whole_round_face_leans(result: str, volume: float) -> None:
    """A post of 5 that is 4 at its top, a bore of 4 that is 3 at its floor, 8 mm on (cones). Its middle is on its axis."""
    wide, up = ("10", "up") if result == "add" else ("8", "down")
    top = {"face": "e.end"}
    drawn = {"id": "q", "type": "sketch", "on": top, "draw": [{"kind": "circle", "diameter": wide}]}
    post = {"id": "p", "type": "extrude", "profile": {"sketch": "q"}, "result": result, "distance": "8", "direction": up}
    angle = f"{math.degrees(math.atan(1 / 8)):.12f}"
    leans = draft(which="the faces", faces=[{"face": "p.side[f1_C1]"}], angle=angle, neutral=top)
    assert measure.volume(made(drawn, post, leans)) == pytest.approx(volume, rel=1e-9)


def test_only_the_inside_or_only_the_outside_leans() -> None:
    """From the rim down: the hollow narrows inside, the outside narrows outside."""
    inside = made(SHELL, draft(which="side faces inside", angle="1", neutral=RIM))
    assert measure.volume(inside) == pytest.approx(24000 - frustum(36, 26, 18, 1), rel=1e-9)
    outside = made(SHELL, draft(which="side faces outside", angle="-1", neutral=RIM))
    assert measure.volume(outside) == pytest.approx(frustum(40, 30, 20, 1) - 36 * 26 * 18, rel=1e-9)


def test_drafts_say_what_stands_in_their_way() -> None:
    missed = built(part([*BOX, draft(ways="both ways", neutral={"plane": "top", "offset": "90"})])).outcome("d")
    assert missed.field == "angle" and "misses" in missed.message
    none = built(part([*BOX, SHELL, draft(which="side faces inside", axis={"axis": "z"}, body="e", neutral={"plane": "top"}),
                       draft(which="side faces inside") | {"id": "d2", "body": "nobody"}])).outcome("d2")  # fmt: skip
    assert none.status == "failed" and none.field == "body"
    solid_body = built(part([*BOX, draft(which="side faces inside")])).outcome("d")
    assert solid_body.field == "which" and "no such faces" in solid_body.message
    steep = built(part([*BOX, draft(angle="60")])).outcome("d")
    assert steep.sized and "closes" in steep.message


RAMP: STEPS = [
    *BOX,
    chain("k", (-30, 10), (30, 16), (30, 30), (-30, 30), (-30, 10), on={"plane": "front"}),
    extrude("c", "k", "60", direction="both ways", result="cut"),
]


def from_line(**fields: Any) -> dict[str, Any]:
    return {"id": "d", "type": "draft", "about": "a parting line", "angle": "-2", **fields}


def under(places: list[Any], tangents: list[Any], outwards: list[Any], slope: float, more: Sequence[Any] = ()) -> float:
    """Volume under a plane rising with `slope` along x, within all half-spaces that lean by 2° through places of its edge."""
    lean = math.sin(math.radians(2))
    rows = [[-slope, 0, 1, -13], [0, 0, -1, 0], *more]
    for place, tangent, out in zip(places, tangents, outwards, strict=True):
        along = np.array(tangent) / np.linalg.norm(tangent)
        down = np.array([0, 0, -1.0]) + along[2] * along
        across = np.cross(along, down)
        across *= np.sign(across @ out) / np.linalg.norm(across)
        share = lean / np.linalg.norm(down)
        normal = share * down / np.linalg.norm(down) + math.sqrt(1 - share**2) * across
        rows.append([*normal, -float(normal @ place)])
    found = HalfspaceIntersection(np.array(rows), np.array([0.0, 0.0, 5.0]))
    return float(ConvexHull(found.intersections).volume)


def test_walls_lean_from_a_slanting_rim() -> None:
    """The rim stays; under it lie planes of the angle through its edges, whose volume scipy finds from half-spaces."""
    rim = [{"rule": "outer loop", "of": "c.side[L1]"}]
    body = bodies(part([*RAMP, from_line(line=rim)]))["e"].body
    tangents, outwards = [(0, 1, 0), (0, 1, 0), (1, 0, 0.1), (1, 0, 0.1)], [(1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0)]
    expected = under([(20, 0, 15), (-20, 0, 11), (0, 15, 13), (0, -15, 13)], tangents, outwards, 0.1)
    assert not check.faults(body.solid) and measure.volume(body.solid) == pytest.approx(expected, rel=1e-9)
    assert all(len(body.faces_by_tag[f"e.side[f1_L{n}]"]) == 1 for n in (1, 2, 3, 4))


def test_one_wall_leans_from_its_slanting_edge() -> None:
    """The surface of the draft runs aside under a slanting edge: it must still reach past the wall's end (closed form)."""
    edge = [{"edge": ["c.side[L1]", "e.side[f1_L1]"]}]
    solid = bodies(part([*RAMP, from_line(line=edge)]))["e"].body.solid
    upright = [[1, 0, 0, -20], [-1, 0, 0, -20], [0, 1, 0, -15]]
    expected = under([(0, -15, 13)], [(1, 0, 0.1)], [(0, -1, 0)], 0.1, upright)
    assert not check.faults(solid) and measure.volume(solid) == pytest.approx(expected, rel=1e-9)


def test_a_round_wall_leans_from_a_slanting_rim() -> None:
    """Against the intersection of 3000 half-spaces, which is larger than the smooth body by less than a millionth."""
    steps = [
        circle("s", "40"),
        extrude("e", "s", "20"),
        *RAMP[2:],
        from_line(line=[{"rule": "outer loop", "of": "c.side[L1]"}]),
    ]
    solid = bodies(part(steps))["e"].body.solid
    turns = np.linspace(0, 2 * math.pi, 3001)[:-1]
    outwards = [(math.cos(a), math.sin(a), 0) for a in turns]
    places = [np.array((20 * x, 20 * y, 13 + 2 * x)) for x, y, _ in outwards]
    expected = under(places, [(-y, x, -0.1 * y) for x, y, _ in outwards], outwards, 0.1)
    assert not check.faults(solid) and measure.volume(solid) == pytest.approx(expected, rel=2e-6)


def test_rounded_uprights_lean_as_cones() -> None:
    """Under a level rim the corners are cones: prismatoid of the rounded rectangles at both ends (closed form)."""
    up = {"id": "u", "type": "fillet", "edges": [{"rule": "uprights", "of": "e"}], "radius": "6"}
    solid = made(up, from_line(line=[{"rule": "outer loop", "of": "e.end"}]))
    areas = [
        (40 - 2 * d) * (30 - 2 * d) - (4 - math.pi) * (6 - d) ** 2 for d in np.array([0, 10, 20]) * math.tan(math.radians(2))
    ]
    assert measure.volume(solid) == pytest.approx(20 / 6 * (areas[0] + 4 * areas[1] + areas[2]), rel=1e-9)


def test_a_wall_leans_both_ways_from_a_line_drawn_on_it() -> None:
    """Two wedges, as high as the wall above the line and under it."""
    upper = chain("k", (-30, 12), (30, 12), (30, 30), (-30, 30), (-30, 12), on={"plane": "front"})
    scored = {"id": "sc", "type": "score", "profile": {"sketch": "k"}, "face": [{"face": "e.side[f1_L1]"}]}
    line = [{"edge": ["e.side[f1_L1]", "sc.scored{e.side[f1_L1]}[L1]"]}]
    solid = made(upper, scored, from_line(line=line, angle="3", ways="both ways"))
    t = math.tan(math.radians(3))
    assert measure.volume(solid) == pytest.approx(24000 - 40 * t * (8**2 + 12**2) / 2, rel=1e-9)


@pytest.mark.parametrize(
    ("line", "angle", "words"),
    [
        ([], "1", "No edge"),
        ([SIDE, {"edge": ["e.end", "e.side[f1_L3]"]}], "-1", "make no line"),
        ([SIDE], "1", "No wall goes on"),
        ([SIDE], "-60", "between 0° and 45°"),
        ([SIDE], "0", "between 0° and 45°"),
        ([UPRIGHT], "1", "No wall"),
    ],
)
def test_parting_lines_say_what_is_wrong(line: list[dict[str, Any]], angle: str, words: str) -> None:
    outcome = built(part([*BOX, from_line(line=line, angle=angle)])).outcome("d")
    assert outcome.status == "failed" and words in outcome.message, outcome.message


def test_a_line_over_a_flange_is_refused() -> None:
    """The draft would cut the flange off, not lean a wall."""
    flange = [rectangle("w", "80", "70"), extrude("fl", "w", "3", result="add")]
    rim = [{"rule": "outer loop", "of": "e.end"}]
    outcome = built(part([*BOX, *flange, from_line(line=rim, angle="-1")])).outcome("d")
    assert outcome.field == "angle" and "crosses other parts" in outcome.message
