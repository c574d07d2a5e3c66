"""Outlines in and out of files, photos, and curves taken from the model: judged by other engines and by closed forms."""

from __future__ import annotations

import io
import math
import struct
from typing import Any

import ezdxf
import numpy as np
import pytest
from shapely import Polygon
from svgpathtools import svgstr2paths

from supplecast import kernel
from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Spline2, interpolated
from supplecast.document.edits import apply, read_edit
from supplecast.document.model import Document
from supplecast.errors import KernelError, SketchError, SuppleError
from supplecast.exchange.outlines import read_outline, write_dxf, write_svg
from supplecast.exchange.photos import read_photo
from supplecast.geometry import Frame, Vec
from supplecast.naming import reference_edge
from supplecast.sketch import regions
from supplecast.sketch.acts.take import as_taken
from supplecast.sketch.model import Drawing
from tests.conftest import bodies, built, circle, extrude, part, rectangle
from tests.referee.photos import photo, png
from tests.referee.sketches import act, areas

OUTLINE: list[Curve2] = [
    Line2("a", (0, 0), (30, 0)),
    Arc2("b", (30, 10), (30, 0), (30, 20), True),
    Line2("c", (30, 20), (0, 20)),
    interpolated("s", [(0, 20), (-5, 12), (0, 0)], (-2, 19), (-2, 1)),
    Circle2("d", (8, 10), 4),
    Ellipse2("e", (22, 10), (27, 11), 2.5),
]
ELLIPSE = math.pi * math.hypot(5, 1) * 2.5


@pytest.mark.parametrize("write", [write_dxf, write_svg])
def test_outlines_come_back_as_they_went(write: Any) -> None:
    rows, notes = read_outline(write(OUTLINE))
    assert not notes
    back = act(Drawing(), {"do": "bring in", "curves": rows})
    whole = sorted(region.area for region in regions.areas(OUTLINE).regions)
    assert areas(back.drawing) == pytest.approx(whole, rel=3e-4)
    assert [row["kind"] for row in rows].count("circle") == 1


def test_files_are_read_by_other_programs_engines() -> None:
    document = ezdxf.read(io.StringIO(write_dxf(OUTLINE, [Line2("k", (0, 0), (5, 5))]).decode()))
    kinds = [(e.dxftype(), e.dxf.layer) for e in document.modelspace()]
    assert kinds.count(("LINE", "outline")) == 2 and ("LINE", "construction") in kinds
    (spline,) = document.modelspace().query("SPLINE")
    places = np.array([tuple(p)[:2] for p in spline.construction_tool().approximate(400)])
    curve = OUTLINE[3]
    off = [np.hypot(*(curve.at(np.linspace(0, 1, 4001)) - p).T).min() for p in places]
    assert max(off) < 2e-3
    (ellipse,) = document.modelspace().query("ELLIPSE")
    assert math.pi * ellipse.dxf.major_axis.magnitude**2 * ellipse.dxf.ratio == pytest.approx(ELLIPSE)
    paths, _ = svgstr2paths(write_svg(OUTLINE).decode())
    lengths = [path.length(error=1e-9) for path in paths]
    assert lengths[1] == pytest.approx(10 * math.pi) and lengths[4] == pytest.approx(8 * math.pi)


def test_units_of_files_are_heeded() -> None:
    inches = ezdxf.new(units=1)
    inches.modelspace().add_lwpolyline([(0, 0), (2, 0), (2, 1), (0, 1)], close=True)
    text = io.StringIO()
    inches.write(text)
    rows, _ = read_outline(text.getvalue().encode())
    assert areas(act(Drawing(), {"do": "bring in", "curves": rows}).drawing) == [pytest.approx(2 * 25.4**2)]
    svg = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="4cm" height="2cm" viewBox="0 0 8 4"><rect width="8" height="4"/></svg>'
    )
    assert areas(act(Drawing(), {"do": "bring in", "curves": read_outline(svg)[0]}).drawing) == [pytest.approx(800)]


def test_a_bulged_polyline_and_what_cannot_be_drawn() -> None:
    document = ezdxf.new(units=4)
    document.modelspace().add_lwpolyline([(0, 0, 1), (10, 0, 1)], format="xyb", close=True)
    document.modelspace().add_text("no outline")
    document.modelspace().add_line((3, 3), (3, 3))
    text = io.StringIO()
    document.write(text)
    rows, notes = read_outline(text.getvalue().encode())
    assert areas(act(Drawing(), {"do": "bring in", "curves": rows}).drawing) == [pytest.approx(25 * math.pi)]
    assert notes == ["1 of a kind that cannot be drawn left out", "1 without length left out"]


def test_a_thousand_lines_come_in_and_gaps_are_told_apart() -> None:
    """A comb of 250 squares: their corners are 3e-7 apart and are one; one square has a gap of 0.2 and stays open."""
    rows = []
    for i in range(250):
        x, gap = 3.0 * i, 0.2 if i == 7 else 3e-7
        corners = [(x, 0), (x + 2, 0), (x + 2, 2), (x, 2)]
        for a, b in zip(corners, [*corners[1:], (x, gap)], strict=True):
            rows.append({"kind": "line", "places": [a, b]})
    done = act(Drawing(), {"do": "bring in", "curves": rows})
    found = regions.areas(regions.curves(done.drawing, done.solution))
    assert len(found.regions) == 249 and [round(gap.width, 6) for gap in found.gaps] == [0.2, 0.2]


BAD = [
    (b"", "neither"), (b"\x00" * 64, "neither"), (b"0\nSECTION\n", "no lines"), (b"<svg", "broken"),
    (b'<svg xmlns="http://www.w3.org/2000/svg"/>', "no lines"),
    (b'<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"><text>&a;</text></svg>', "entities of its own"),
]  # fmt: skip


@pytest.mark.parametrize(("content", "words"), BAD)
def test_files_that_hold_no_outline_are_refused_in_words(content: bytes, words: str) -> None:
    with pytest.raises(SuppleError, match=words) as fault:
        read_outline(content)
    assert fault.value.hint


def test_photos_are_known_by_their_headers() -> None:
    assert read_photo(png(40, 30)) == ("image/png", 40, 30)
    assert read_photo(photo(40, 30, "JPEG")) == ("image/jpeg", 40, 30)
    wide = png(40, 30).replace(struct.pack(">II", 40, 30), struct.pack(">II", 20_000, 20_000))
    for bad in (b"", b"GIF89a", b"\xff\xd8\xff", photo(40, 30, "GIF"), wide):
        with pytest.raises(SuppleError):
            read_photo(bad)


def test_a_photo_is_sized_by_two_places_and_a_distance() -> None:
    photo = {"asset": "a" * 64, "pixels": [400, 300], "width": 100, "at": [10, 0]}
    added = act(Drawing(), {"do": "add photo", "photo": photo})
    sized = act(added.drawing, {"do": "size photo", "name": added.made[0], "a": [0, 0], "b": [30, 40], "distance": "25 mm"})
    (found,) = sized.drawing.photos.values()
    assert found.width == 50 and found.at == (5, 0)
    locked = act(sized.drawing, {"do": "set photo", "name": added.made[0], "locked": True, "fade": 0.3})
    with pytest.raises(SuppleError, match="locked"):
        act(locked.drawing, {"do": "set photo", "name": added.made[0], "at": [1, 1]})
    assert not act(locked.drawing, {"do": "remove photo", "name": added.made[0]}).drawing.photos


# --- from the model -------------------------------------------------------------------------------------------------

CUP = [
    circle("c", "20"),
    extrude("e", "c", "30", draft="5"),
    {"id": "shl", "type": "shell", "wall": "2", "open": [{"face": "e.end"}]},
]


def length(curve: Curve2) -> float:
    return float(np.hypot(*np.diff(curve.at(np.linspace(0, 1, 4001)), axis=0).T).sum())


def test_edges_lie_flat_as_closed_forms_say() -> None:
    solid = bodies(part([rectangle("r", "40", "30"), extrude("e", "r", "10")]))["e"].body.solid
    tilted = Frame(x=(1, 0, 0), normal=(0, -math.sin(0.3), math.cos(0.3)))
    flat = [kernel.flatten.flattened(solid, index, tilted) for index in range(solid.number_of_edges)]
    assert all(isinstance(curve, Line2) for curve in flat)
    assert sorted({round(length(curve), 9) for curve in flat}) == pytest.approx(
        sorted({10 * math.sin(0.3), 30 * math.cos(0.3), 40.0})
    )
    round_ = bodies(part([circle("c", "20"), extrude("e", "c", "5")]))["e"].body.solid
    upright = [index for index in range(round_.number_of_edges) if _or_none(round_, index, Frame()) is None]
    assert len(upright) == 1  # the seam of the wall; both rims are circles
    with pytest.raises(KernelError, match="square on the plane"):
        kernel.flatten.flattened(round_, upright[0], Frame())
    ovals = [c for e in (0, 1, 2) for c in [_or_none(round_, e, tilted)] if c is not None and not isinstance(c, Line2)]
    # Ramanujan's second formula for the length of an ellipse, here good to 1e-9.
    a, b = 10.0, 10 * math.cos(0.3)
    h = ((a - b) / (a + b)) ** 2
    around = math.pi * (a + b) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h)))
    assert [length(curve) for curve in ovals] == [pytest.approx(around, rel=1e-5)] * 2


def _or_none(solid: Any, index: int, frame: Frame) -> Curve2 | None:
    try:
        return kernel.flatten.flattened(solid, index, frame)
    except KernelError:
        return None


def test_sections_and_silhouettes() -> None:
    solid = bodies(part(CUP))["e"].body.solid
    half = kernel.flatten.section(solid, Frame().shifted(15))
    lean = 15 * math.tan(math.radians(5))
    radii = sorted(curve.radius for curve in half if isinstance(curve, Circle2))
    assert radii == pytest.approx([10 - lean - 2 / math.cos(math.radians(5)), 10 - lean])
    with pytest.raises(KernelError, match="does not cut"):
        kernel.flatten.section(solid, Frame().shifted(99))
    side = kernel.flatten.silhouette(solid, Frame(x=(1, 0, 0), normal=(0, -1, 0)))
    assert any(isinstance(c, Line2) and length(c) == pytest.approx(30 / math.cos(math.radians(5)), rel=1e-6) for c in side)


@pytest.mark.parametrize("normal", [(0.0, -1.0, 0.0), (1.0, 0.0, 0.0), (0.6, 0.8, 0.0)])
def test_a_cylinder_has_two_sides_wherever_it_is_seen_from(normal: Vec) -> None:
    """Also where its seam is one of them; taken a second time they are not doubled."""
    solid = bodies(part([circle("s1", "24"), extrude("e1", "s1", "30")]))["e1"].body.solid
    rims = kernel.flatten.silhouette(solid, Frame(x=(-normal[1], normal[0], 0.0), normal=normal))
    assert sorted(round(float(rim.at(np.array([0.5]))[0, 0]), 6) for rim in rims) == [-12, 12]
    source = {"body": "e1", "how": "silhouette"}
    curves = [{"kind": "line", "places": rim.at(np.array([0.0, 1.0])).tolist(), "source": source} for rim in rims]
    taken = act(Drawing(), {"do": "take", "curves": curves}).drawing
    assert len(taken.entities) == 2
    with pytest.raises(SketchError, match="taken already"):
        act(taken, {"do": "take", "curves": curves})


def linked(height: str) -> tuple[Document, str]:
    document = part(
        [rectangle("r", "40", "30"), extrude("e", "r", height), {"id": "s", "type": "sketch", "on": {"plane": "front"}}]
    )
    entry = bodies(part([rectangle("r", "40", "30"), extrude("e", "r", height)]))["e"]
    frame = Frame(x=(1, 0, 0), normal=(0, -1, 0))
    top = next(
        index
        for index in range(entry.body.solid.number_of_edges)
        if (curve := _or_none(entry.body.solid, index, frame)) is not None
        and length(curve) > 39
        and abs(curve.at(np.array([0.0]))[0][1] - float(height)) < 1e-9
    )
    reference = reference_edge(entry.body, top).model_dump(mode="json", exclude_none=True, exclude_defaults=True)
    flat = as_taken(kernel.flatten.flattened(entry.body.solid, top, frame))
    curve = {**flat, "source": {"how": "edge", "edge": reference}}
    edit = {"op": "sketch", "step": "s", "acts": [{"do": "take", "curves": [curve], "real": True}]}
    return apply(document, read_edit(edit))[0], "s"


def test_what_was_taken_follows_the_model_and_is_fixed_until_it_is_unlinked() -> None:
    document, step = linked("10")
    sketch: Any = document.step(step)
    (name,) = sketch.taken
    entry = built(document).state.sketches[step]
    assert entry.freedoms == 0 and entry.curves[0].a[1] == pytest.approx(10)  # type: ignore[union-attr]
    higher, _ = apply(document, read_edit({"op": "set", "step": "e", "field": "distance", "value": "17 mm"}))
    assert built(higher).state.sketches[step].curves[0].a[1] == pytest.approx(17)  # type: ignore[union-attr]
    assert {round(y, 9) for _, y in built(higher).state.sketches[step].taken.values()} == {17.0}
    gone, _ = apply(document, read_edit({"op": "skip", "step": "e"}))
    outcome = built(gone).outcome(step)
    assert outcome.status == "ok" and "No longer found in the model" in outcome.flags[0].words
    free, _ = apply(document, read_edit({"op": "sketch", "step": step, "acts": [{"do": "unlink", "names": [name]}]}))
    assert built(free).state.sketches[step].freedoms == 4
    with pytest.raises(SuppleError, match="cannot stand before"):
        apply(document, read_edit({"op": "move", "step": step, "after": None}))


def test_a_spline_and_an_ellipse_are_raised_to_the_volume_of_their_area() -> None:
    """Ellipse: π·a·b·h. Spline: its exact area by Green's theorem over its Bézier pieces."""
    oval = {"points": {"c": (0, 0), "a": (10, 0)}, "entities": {"E": {"type": "ellipse", "c": "c", "a": "a", "r": 4}}}
    solid = bodies(part([{"id": "s", "type": "sketch", **oval}, extrude("e", "s", "5")]))["e"].body.solid
    assert kernel.measure.mass(solid).volume == pytest.approx(40 * math.pi * 5, rel=1e-9)
    wave = {
        "points": {"a": (0, 0), "m": (10, 6), "n": (20, 5), "b": (30, 0), "h": (2, 5), "k": (28, 6)},
        "entities": {"S": {"type": "spline", "through": ["a", "m", "n", "b"], "first": "h", "last": "k"},
                     "L": {"type": "line", "a": "b", "b": "a"}},
    }  # fmt: skip
    document = part([{"id": "s", "type": "sketch", **wave}, extrude("e", "s", "5")])
    spline = interpolated("S", [(0, 0), (10, 6), (20, 5), (30, 0)], (2, 5), (28, 6))
    assert isinstance(spline, Spline2)
    fine = spline.sampled(4000)
    shoelace = abs(float(np.sum(fine[:-1, 0] * fine[1:, 1] - fine[1:, 0] * fine[:-1, 1]))) / 2
    mass = kernel.measure.mass(bodies(document)["e"].body.solid)
    assert mass.volume == pytest.approx(shoelace * 5, rel=1e-6)
    middle = Polygon(fine).centroid  # shapely's, of the same outline in short chords
    assert mass.centroid == pytest.approx((middle.x, middle.y, 2.5), abs=1e-5)
