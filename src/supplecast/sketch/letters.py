"""Words as outlines: glyphs of the shipped fonts, their curves drawn as chords so that the sides of letters can lean.

A letter's curves are Béziers, which take no draft, and arcs through them meet at angles so small that the kernel loses itself
there. Chords within a small share of the letter's height make flats, which lean, cut and mesh at once.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import Any, Literal

import numpy as np
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont

from supplecast.curves import Curve2, Line2, Region
from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2

Font = Literal["regular", "bold", "narrow"]
Align = Literal["left", "centre", "right"]
_FINE = 1 / 150  # of the height of capitals: how far chords may be off; tighter rounds no tool would cut
_STEPS = 16  # points along each of its curves, of which the chords take as few as will do


@dataclass(frozen=True)
class Letter:
    """One area of a letter: its number in the text and the area itself."""

    number: int
    region: Region


def words(text: str, font: Font, height: float, align: Align = "centre", *, mirrored: bool = False) -> list[Letter]:
    """The areas of a line of text whose capitals are `height` mm high, standing on the x axis.

    `align` puts the origin at its left end, its middle or its right end. SketchError names characters the font has not.
    """
    held = _font(font)
    glyphs, names = held.getGlyphSet(), held.getBestCmap()
    missing = sorted({letter for letter in text if ord(letter) not in names})
    if missing:
        raise SketchError(f"The font has no {' '.join(missing)}.", "Type other characters.")
    scale = height / held["OS/2"].sCapHeight
    widths = [glyphs[names[ord(letter)]].width * scale for letter in text]
    at = {"left": 0.0, "centre": -sum(widths) / 2, "right": -sum(widths)}[align]
    letters: list[Letter] = []
    for number, (letter, width) in enumerate(zip(text, widths, strict=True), 1):
        outlines = _contours(glyphs, glyphs[names[ord(letter)]], scale, at, height * _FINE)
        if mirrored:
            outlines = [outline * (-1.0, 1.0) for outline in outlines]
        letters += [Letter(number, region) for region in _areas(outlines, number)]
        at += width
    if not letters:
        raise SketchError("There is nothing to write.", "Type a text.")
    return letters


@lru_cache(maxsize=3)
def _font(name: Font) -> Any:
    return TTFont(resources.files("supplecast.fonts") / f"{name}.woff")


def _contours(glyphs: Any, glyph: Any, scale: float, at: float, fine: float) -> list[Floats]:
    """The closed outlines of a glyph, each as its corners, (n, 2) mm."""
    pen = DecomposingRecordingPen(glyphs)
    glyph.draw(pen)
    rings: list[list[Floats]] = []
    for how, points in pen.value:
        given = [np.array(p, dtype=float) * scale + (at, 0.0) for p in points if p is not None]
        if how == "moveTo":
            rings.append([given[0][None]])
        elif how == "lineTo":
            rings[-1].append(given[0][None])
        elif how == "qCurveTo":
            for mid, end in _quadratics(given):
                here = rings[-1][-1][-1]
                rings[-1].append(_curve(np.array([here, (here + 2 * mid) / 3, (end + 2 * mid) / 3, end])))
        elif how == "curveTo":
            rings[-1].append(_curve(np.array([rings[-1][-1][-1], *given])))
    return [outline for parts in rings if len(outline := _chords(np.concatenate(parts), fine)) > 2]


def _quadratics(points: Sequence[Floats]) -> list[tuple[Floats, Floats]]:
    """A run of control points and its end as single quadratic pieces: between two controls lies the middle of both."""
    controls, end = points[:-1], points[-1]
    ends = [*((a + b) / 2 for a, b in zip(controls, controls[1:], strict=False)), end]
    return list(zip(controls, ends, strict=True))


def _curve(p: Floats) -> Floats:
    """Points along a cubic, its beginning left out."""
    t = np.linspace(0.0, 1.0, _STEPS + 1)[1:, None]
    points: Floats = (1 - t) ** 3 * p[0] + 3 * t * (1 - t) ** 2 * p[1] + 3 * t**2 * (1 - t) * p[2] + t**3 * p[3]
    return points


def _chords(points: Floats, fine: float) -> Floats:
    """As few of the points of a closed outline as keep within `fine` mm of it (Douglas, Peucker 1973)."""
    far = int(np.linalg.norm(points - points[0], axis=1).argmax())
    ring = np.concatenate([points, points[:1]])
    keep = np.zeros(len(ring), dtype=bool)
    keep[[0, far, -1]] = True
    spans = [(0, far), (far, len(ring) - 1)]
    while spans:
        a, b = spans.pop()
        if b - a > 1:
            chord = ring[b] - ring[a]
            off = ring[a + 1 : b] - ring[a]
            length = float(np.linalg.norm(chord))
            away = np.abs(chord[0] * off[:, 1] - chord[1] * off[:, 0]) / length if length > 0 else np.linalg.norm(off, axis=1)
            worst = int(away.argmax())
            if away[worst] > fine:
                keep[a + 1 + worst] = True
                spans += [(a, a + 1 + worst), (a + 1 + worst, b)]
    chords: Floats = ring[keep][:-1]
    return chords


def _areas(outlines: list[Floats], number: int) -> list[Region]:
    """Outer loops with the holes that lie in them; which is which is told by the sense of the largest."""
    sizes = [_area(points) for points in outlines]
    if not sizes:
        return []
    sense = math.copysign(1.0, max(sizes, key=abs))
    outers = [n for n, size in enumerate(sizes) if size * sense > 0]
    holes: dict[int, list[tuple[Curve2, ...]]] = {}
    for index in range(len(sizes)):
        around = [n for n in outers if index not in outers and _inside(outlines[n], outlines[index][0])]
        if around:
            inner = min(around, key=lambda n: abs(sizes[n]))
            holes.setdefault(inner, []).append(_loop(outlines[index], f"t{number}c{index}", ccw=False))
    return [Region(_loop(outlines[n], f"t{number}c{n}", ccw=True), tuple(holes.get(n, ()))) for n in outers]


def _loop(points: Floats, name: str, *, ccw: bool) -> tuple[Curve2, ...]:
    corners = [_point(p) for p in (points if (_area(points) > 0) == ccw else points[::-1])]
    pairs = zip(corners, [*corners[1:], corners[0]], strict=True)
    return tuple(Line2(f"{name}s{n}", a, b) for n, (a, b) in enumerate(pairs))


def _area(points: Floats) -> float:
    x, y = points[:, 0], points[:, 1]
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum()) / 2


def _inside(loop: Floats, p: Floats) -> bool:
    a, b = loop, np.roll(loop, -1, axis=0)
    crosses = (a[:, 1] > p[1]) != (b[:, 1] > p[1])
    rise = np.where(crosses, b[:, 1] - a[:, 1], 1.0)
    x = a[:, 0] + (p[1] - a[:, 1]) / rise * (b[:, 0] - a[:, 0])
    return bool((crosses & (p[0] < x)).sum() % 2)


def _point(p: Floats) -> Point2:
    return (float(p[0]), float(p[1]))
