"""How pictures lie on faces: true to length on what can be unrolled, with least stretch elsewhere, no seam round a can; and
how they are read.
"""

from __future__ import annotations

import math
import struct
import zlib
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from shapely import Polygon

from supplecast.art import picture, unroll
from supplecast.art.decal import corners_of, decal
from supplecast.art.ladder import ladder
from supplecast.art.laying import Laying
from supplecast.art.refine import refined
from supplecast.art.sheet import Cast, Cone, Flat, Laid, Round, Turned
from supplecast.errors import SuppleError
from supplecast.geometry import Frame
from tests.referee.papers import BAT, area, lathe, quarters
from tests.referee.photos import photo, png

AXIS = Frame((0.0, 0.0, 0.0), (0.0, -1.0, 0.0), (0.0, 0.0, 1.0))
SQUARE = (np.array([[0, 0, 0], [30, 0, 0], [30, 20, 0], [0, 20, 0]], dtype=float), np.array([[0.0, 0, 1]] * 4),
          np.array([[0, 1, 2], [0, 2, 3]], dtype=np.int32))  # fmt: skip


def can(turn: float = 0.0) -> tuple[Any, Any, Any]:
    return lathe(lambda s: 30.0, lambda s: -45 + 90 * s, 96, 4, turn)


@given(st.floats(-20, 50), st.floats(-15, 35), st.floats(-3, 3), st.floats(1, 40), st.floats(1, 40))
def test_what_lies_on_a_flat_face_is_the_part_of_the_picture_within_it(
    x: float, y: float, turn: float, w: float, h: float
) -> None:
    cut = decal(*SQUARE, Laying(Flat(Frame()), x, y, turn, w, h))
    c, s = math.cos(turn), math.sin(turn)
    corners = [
        (x + c * a - s * b, y + s * a + c * b) for a, b in ((-w / 2, -h / 2), (w / 2, -h / 2), (w / 2, h / 2), (-w / 2, h / 2))
    ]
    within = Polygon(corners).intersection(Polygon([(0, 0), (30, 0), (30, 20), (0, 20)])).area
    assert area(cut.points) == pytest.approx(within, abs=1e-6) and cut.covered == pytest.approx(within / (w * h), abs=1e-9)
    # Each corner's place in the picture is where it lies, seen from the picture's upper left.
    away = cut.points[:, :2] - (x, y)
    u, v = (away @ (c, s)) / w + 0.5, 0.5 - (away @ (-s, c)) / h
    assert np.allclose(cut.places, np.stack([u, v], axis=1), atol=1e-9)


@pytest.mark.parametrize("turn", [0.0, 1.0, 2.7])
@pytest.mark.parametrize("at", [0.0, 94.0])
def test_a_square_of_10_mm_on_a_can_measures_10_mm_along_the_arc(turn: float, at: float) -> None:
    """Wherever the face has its seam, and on the far side too."""
    cut = decal(*can(turn), Laying(Round(AXIS, 30.0, 1.0, 1.0), at, 5.0, 0.0, 10.0, 10.0))
    angle = np.mod(np.arctan2(cut.points[:, 1], cut.points[:, 0]) + math.pi / 2 - at / 30 + math.pi, 2 * math.pi) - math.pi
    assert np.ptp(angle) * 30 == pytest.approx(10.0, abs=2e-3) and np.ptp(cut.points[:, 2]) == pytest.approx(10.0, abs=1e-9)
    assert np.allclose(cut.places[:, 0], angle * 30 / 10 + 0.5, atol=2e-4)  # chords of 96 to the round: 1e-4 of a facet
    assert np.allclose(cut.places[:, 1], 0.5 - (cut.points[:, 2] - 5) / 10, atol=1e-9)
    assert cut.covered == pytest.approx(1.0, abs=1e-9) and cut.stretch.max() < 1e-3


@pytest.mark.parametrize("turn", [0.0, 0.4, 3.0])
def test_a_picture_once_round_a_can_meets_itself_without_a_seam(turn: float) -> None:
    skin = can(turn)
    rungs = ladder(skin[0], skin[2], AXIS, np.array([0.0, -30.0, 0.0]))
    assert [r[1] for r in rungs] == pytest.approx([30.0] * len(rungs)) and rungs[-1][2] - rungs[0][2] == pytest.approx(90.0)
    around = 2 * math.pi * 30
    cut = decal(*skin, Laying(Turned(AXIS, 30.0, 1.0, rungs), 0.0, 0.0, 0.0, around, 60.0))
    assert cut.covered == pytest.approx(1.0, abs=1e-9)
    u = cut.places[:, 0]
    for edge in (0.0, 1.0):  # both ends of the picture lie on one line of the can, opposite of its middle
        mine = cut.points[np.abs(u - edge) < 1e-9]
        assert len(mine) and np.allclose(np.mod(np.arctan2(mine[:, 1], mine[:, 0]), 2 * math.pi), math.pi / 2, atol=1e-9)
        assert np.ptp(mine[:, 2]) == pytest.approx(60.0)
    whole = lathe(lambda s: 30.0, lambda s: -30 + 60 * s, 96, 1)
    assert area(cut.points) == pytest.approx(area(whole[0][whole[2]]), rel=1e-9)


def test_a_label_on_a_cone_is_its_developed_sector() -> None:
    """A cone of half angle 20°: unrolled, a place at slant s and angle φ lies at s·(sin, cos)(φ·sin 20°)."""
    half = math.radians(20)
    skin = lathe(lambda s: (40 + 40 * s) * math.sin(half), lambda s: (40 + 40 * s) * math.cos(half), 240, 24)
    sheet = Cone(AXIS, half, 60.0, 1.0, 1.0)
    cut = decal(*skin, Laying(sheet, 3.0, -2.0, 0.3, 18.0, 12.0))
    slant = np.linalg.norm(cut.points, axis=1)
    swing = (np.mod(np.arctan2(cut.points[:, 1], cut.points[:, 0]) + 1.5 * math.pi, 2 * math.pi) - math.pi) * math.sin(half)
    paper = np.stack([slant * np.sin(swing), slant * np.cos(swing) - 60], axis=1) - (3.0, -2.0)
    c, s = math.cos(0.3), math.sin(0.3)
    own = np.stack([c * paper[:, 0] + s * paper[:, 1], c * paper[:, 1] - s * paper[:, 0]], axis=1)
    assert np.allclose(cut.places, np.stack([own[:, 0] / 18 + 0.5, 0.5 - own[:, 1] / 12], axis=1), atol=5e-4)
    assert area(cut.points) == pytest.approx(18 * 12, rel=2e-4) and cut.stretch.max() < 2e-3
    assert np.allclose(sheet.on_paper(sheet.in_space(np.array([[4.0, 7.0]]))[None, [0, 0, 0]])[0, 0], (4.0, 7.0), atol=1e-9)


@pytest.mark.parametrize("name", ["can", "corner"])
def test_what_can_be_unrolled_is_laid_on_without_stretch_by_the_way_for_any_form(name: str) -> None:
    if name == "can":
        skin, frame = can(1.0), Frame((0.0, -30.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
    else:  # two flats and the round between them: all of it one sheet
        arc = [(20 + 5 * math.sin(a), 5 - 5 * math.cos(a)) for a in np.linspace(0.2, math.pi / 2, 8)]
        bend = [(0.0, 0.0), (20.0, 0.0), *arc, (25.0, 25.0)]
        run = np.array(bend)
        points = np.array([[x, y, z] for x, z in run for y in (-10.0, 0.0, 10.0)])
        a = (np.arange(len(run) - 1)[:, None] * 3 + np.arange(2)).ravel()
        triangles = np.concatenate([np.stack([a, a + 3, a + 1], 1), np.stack([a + 1, a + 3, a + 4], 1)]).astype(np.int32)
        skin, frame = (
            (points, np.tile((0.0, 0.0, -1.0), (len(points), 1)), triangles),
            Frame((14.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
        )
    cut = decal(*skin, Laying(Laid(frame), 0.0, 0.0, 0.0, 24.0, 12.0))
    assert (
        cut.stretch.max() < 2e-3 and area(cut.points) == pytest.approx(24 * 12 * cut.covered, rel=3e-3) and cut.covered > 0.95
    )


def test_a_ball_is_covered_with_little_stretch_and_the_more_the_larger_the_picture() -> None:
    """A cap of a ball of 30 mm cannot be unrolled (Gauss): over 10 mm a per mille or two are left, over 40 mm some percent."""
    skin = lathe(lambda s: 30 * math.cos(1.4 * s - 0.7), lambda s: 30 * math.sin(1.4 * s - 0.7), 120, 40)
    frame = Frame((0.0, -30.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))
    worst = [float(decal(*skin, Laying(Laid(frame), 0.0, 0.0, 0.0, size, size)).stretch.max()) for size in (5.0, 10.0, 40.0)]
    assert worst[0] < worst[1] < worst[2] and worst[1] < 0.02 and 0.03 < worst[2] < 0.3


def test_a_cast_picture_lies_only_on_what_looks_at_its_plane() -> None:
    cut = decal(*can(), Laying(Cast(Frame((0.0, -50.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))), 0.0, 0.0, 0.0, 40.0, 20.0))
    assert (cut.points[:, 1] < 0).all() and np.allclose(cut.places[:, 0], cut.points[:, 0] / 40 + 0.5, atol=1e-9)
    assert cut.stretch.max() == pytest.approx(1 - math.cos(math.asin(20 / 30)), abs=0.03)


def test_copies_stand_apart_and_are_one_picture_for_those_who_paint_whole_triangles() -> None:
    laying = Laying(Flat(Frame()), 4.0, 4.0, 0.0, 6.0, 4.0, columns=3, rows=2, across=9.0, along=7.0)
    cut = decal(*SQUARE, laying)
    assert area(cut.points) == pytest.approx(6 * 6 * 4) and cut.covered == pytest.approx(1.0)
    rows, places = corners_of(*SQUARE, laying)
    assert rows.tolist() == [0, 1] and np.allclose(places[0, 0], (-1 / 24, (2 + 11 - 0) / 11), atol=1e-9)
    sheet = picture.tiled(picture.pixels(quarters()), 3, 2, 9 / 6, 7 / 4, mirrored=False)
    assert (
        sheet.shape[:2] == (round(40 * 2.75), 80 * 4)
        and sheet[5, 85].tolist()[3] == 0
        and sheet[5, 5].tolist() == [220, 30, 30, 255]
    )


def test_pictures_are_read_as_they_are_and_no_larger_than_is_seen() -> None:
    assert picture.read(quarters()) == picture.Facts("png", 80, 40) and picture.pixels(quarters())[30, 60, 3] == 0
    assert picture.pixels(png(5000, 1000)).shape == (410, 2048, 4)
    drawn = picture.pixels(BAT, 240)
    assert picture.read(BAT) == picture.Facts("svg", 120, 60) and drawn.shape == (120, 240, 4)
    assert drawn[62, 120].tolist() == [0x1F, 0x3A, 0x36, 255] and drawn[2, 2, 3] == 0
    red = picture.in_one(drawn, "#A8443A")
    assert red[62, 120].tolist() == [0xA8, 0x44, 0x3A, 255] and red[2, 2, 3] == 0
    dark = picture.in_one(picture.pixels(photo(10, 10, "JPEG")), "#000000")
    assert 120 < dark[5, 5, 3] < 135  # half grey on paper: half of the ink
    assert picture.over(picture.pixels(quarters()), "#FFFFFF")[31, 61].tolist() == [255, 255, 255, 255]
    assert picture.check_card()[500, 500].tolist() == [203, 132, 0, 255]


def _bomb() -> bytes:
    """A PNG that says it has 50,000 × 50,000 pixels."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 50_000, 50_000, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")


def _svg(inside: str, more: str = 'viewBox="0 0 10 10"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {more}>{inside}</svg>'.encode()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"%PDF-1.4", "no PNG, JPEG or SVG"),
        (_bomb(), "pixels"),
        (png(4000, 1), "mere line"),
        (_svg("<script>alert(1)</script>"), "things of its own"),
        (_svg('<rect width="4" height="4" onclick="x()"/>'), "scripts"),
        (_svg('<image xlink:href="http://example.org/a.png" width="4" height="4"/>'), "from outside"),
        (_svg('<image href="file:///etc/passwd" width="4" height="4"/>'), "from outside"),
        (_svg('<rect width="4" height="4" fill="url(http://example.org/a.svg#b)"/>'), "from outside"),
        (_svg("<style>@import 'http://example.org/a.css';</style>"), "from outside"),
        (_svg("<text>Dusk</text>"), "holds text"),
        (_svg("<rect"), "cannot be read"),
        (b'<!DOCTYPE svg [<!ENTITY a "b">]>' + _svg("&a;"), "cannot be read"),
        (_svg("<g/>" * 20_001), "shapes"),
        (_svg("<g/>", ""), "how large"),
        (_svg("<g/>", 'viewBox="0 0 0 5"'), "no size"),
    ],
)  # fmt: skip
def test_pictures_that_are_none_or_would_do_harm_are_refused_with_a_way_out(content: bytes, words: str) -> None:
    with pytest.raises(SuppleError, match=words) as fault:
        picture.read(content)
    assert fault.value.hint


def test_a_picture_that_is_cut_short_is_refused_when_it_is_unpacked() -> None:
    whole = photo(300, 300, "JPEG")
    with pytest.raises(SuppleError, match="cut short"):
        picture.pixels(whole[: len(whole) // 2])


def test_stretch_is_told_by_the_worst_direction() -> None:
    corners = np.array([[[0, 0, 0], [10, 0, 0], [0, 10, 0]]], dtype=float)
    paper = np.array([[[0, 0], [11, 0], [0, 10]]], dtype=float)
    assert unroll.stretch(corners, paper)[0] == pytest.approx(0.1)
    sheared = np.array([[[0, 0], [10, 0], [2, 10]]], dtype=float)
    most = np.linalg.svd(np.array([[1, 0.2], [0, 1]]))[1].max()
    assert unroll.stretch(corners, sheared)[0] == pytest.approx(most - 1)


def test_smaller_triangles_are_the_same_skin_without_gaps() -> None:
    points, normals, triangles = lathe(lambda s: 20 + 5 * s, lambda s: 30 * s, 9, 2)
    finer = refined(points, normals, triangles, 3.0)
    corners = finer[0][finer[2]]
    assert np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max() <= 3.0
    assert area(corners) == pytest.approx(area(points[triangles]), rel=1e-12)
    whole = trimesh.Trimesh(finer[0], finer[2], process=True)
    bounds = trimesh.Trimesh(points, triangles, process=True)
    assert whole.euler_number == bounds.euler_number and whole.is_winding_consistent
    for parent in range(len(triangles)):
        assert area(corners[finer[3] == parent]) == pytest.approx(area(points[triangles[parent]][None]), rel=1e-9)
