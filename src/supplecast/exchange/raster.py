"""Triangles drawn into an image in layers, compiled: of each pixel the nearest triangle, then the nearest behind that, and so
on, each lit as its look says. A tool has a quarter of a million triangles.

How surfaces give light back: Lambert, and the microfacet model of Trowbridge and Reitz with Smith's shadowing and Schlick's
reflectance (Walter, Marschner, Li, Torrance, “Microfacet models for refraction”, 2007; Schlick 1994; both from memory), in a
room of a few lamps as the view has it.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from supplecast.geometry import Floats, Ints

_EDGE = 1e-9  # a pixel on the line between two triangles belongs to both
LOOK = 6
"""Numbers of a look: red, green and blue as shares of light, cover, roughness, metalness."""


@njit(cache=True)
def layer(before, depth, ident, shares, corners, behind):  # type: ignore[no-untyped-def]
    """Of each pixel of an image (h, w) the nearest triangle that lies behind depth `before`: its number in `ident`, -1 for
    none, the `shares` (h, w, 2) of its first two corners there, and the depth. corners (n, 3, 3): x and y in pixels from the
    upper left, and how near they are; `behind` (n,) says whether a triangle seen from behind counts.
    """
    high, wide = depth.shape
    for n in range(corners.shape[0]):
        x0, y0, z0 = corners[n, 0]
        x1, y1, z1 = corners[n, 1]
        x2, y2, z2 = corners[n, 2]
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        if area == 0 or (area > 0 and not behind[n]):  # seen from behind (rows run downwards)
            continue
        left, right = max(int(min(x0, x1, x2)), 0), min(math.ceil(max(x0, x1, x2)) + 1, wide)
        top, bottom = max(int(min(y0, y1, y2)), 0), min(math.ceil(max(y0, y1, y2)) + 1, high)
        # The shares of the corners run evenly along a row: it is drawn from where all of them are positive to where they end.
        by_a, by_b = (y1 - y2) / area, (y2 - y0) / area
        for row in range(top, bottom):
            y = row + 0.5
            x = left + 0.5
            a = ((x1 - x) * (y2 - y) - (x2 - x) * (y1 - y)) / area
            b = ((x2 - x) * (y0 - y) - (x0 - x) * (y2 - y)) / area
            first, last = 0.0, float(right - left - 1)
            for at, by in ((a, by_a), (b, by_b), (1 - a - b, -by_a - by_b)):
                if by > 0:
                    first = max(first, (-_EDGE - at) / by)
                elif by < 0:
                    last = min(last, (-_EDGE - at) / by)
                elif at < -_EDGE:
                    last = -1.0
            if last < first:
                continue
            for step in range(math.ceil(first - _EDGE), math.floor(last + _EDGE) + 1):
                p, q = a + step * by_a, b + step * by_b
                z = p * z0 + q * z1 + (1 - p - q) * z2
                column = left + step
                if z > depth[row, column] and z < before[row, column]:
                    depth[row, column] = z
                    ident[row, column] = n
                    shares[row, column, 0] = p
                    shares[row, column, 1] = q


@njit(cache=True, fastmath=True)
def shade(image, ident, shares, normals, look_of, looks, print_of, places, pixels, sizes, lamps, axes):  # type: ignore[no-untyped-def]
    """Put a layer behind what an `image` (h, w, 4) of light and cover holds already. normals (n, 3, 3) in space; look_of (n,)
    and looks (k, 6); print_of (n,) is -1 or which print a triangle is of, `places` (n, 3, 2) where in it, `pixels` all prints
    as bytes one after another, `sizes` (p, 3) where each begins, its height and width; lamps (l, 7): direction, size as
    an angle, and light; axes (3, 3): right, up and towards the eye. Returns whether any pixel still lets through.
    """
    through = False
    high, wide = ident.shape
    normal, half, mirrored = np.empty(3), np.empty(3), np.empty(3)
    eye = axes[2]
    colour, light = np.empty(3), np.empty(3)
    for row in range(high):
        for column in range(wide):
            n = ident[row, column]
            if n < 0 or image[row, column, 3] > 0.995:
                continue
            a, b = shares[row, column]
            c = 1 - a - b
            for k in range(3):
                normal[k] = a * normals[n, 0, k] + b * normals[n, 1, k] + c * normals[n, 2, k]
            size = math.sqrt(normal[0] ** 2 + normal[1] ** 2 + normal[2] ** 2)
            facing = normal[0] * eye[0] + normal[1] * eye[1] + normal[2] * eye[2]
            sign = 1.0 if facing >= 0 else -1.0
            for k in range(3):
                normal[k] *= sign / max(size, 1e-12)
            facing = max(abs(facing) / max(size, 1e-12), 1e-3)
            cover, rough, metal = looks[look_of[n], 3], looks[look_of[n], 4], looks[look_of[n], 5]
            for k in range(3):
                colour[k] = looks[look_of[n], k]
            if print_of[n] >= 0:
                u = a * places[n, 0, 0] + b * places[n, 1, 0] + c * places[n, 2, 0]
                v = a * places[n, 0, 1] + b * places[n, 1, 1] + c * places[n, 2, 1]
                cover = _ink(colour, pixels, sizes[print_of[n]], u, v)
                if cover < 0.004:
                    through = True
                    continue
            for k in range(3):
                mirrored[k] = 2 * facing * normal[k] - eye[k]
                light[k] = colour[k] * (1 - metal) * _sky(normal)
            # What shines back of the room: more at a grazing look, less from what is rough.
            fresnel = _fifth(1 - facing) * (1 - 0.85 * rough)
            seen = _room(mirrored, rough, lamps)
            for k in range(3):
                base = 0.04 * (1 - metal) + colour[k] * metal
                light[k] += (base + (1 - base) * fresnel) * seen
            spread = max(rough * rough, 0.004)
            for lamp in range(lamps.shape[0]):
                reach = normal[0] * lamps[lamp, 0] + normal[1] * lamps[lamp, 1] + normal[2] * lamps[lamp, 2]
                if reach <= 0:
                    continue
                for k in range(3):
                    half[k] = lamps[lamp, k] + eye[k]
                size = math.sqrt(half[0] ** 2 + half[1] ** 2 + half[2] ** 2)
                along = (normal[0] * half[0] + normal[1] * half[1] + normal[2] * half[2]) / size
                meets = max((eye[0] * half[0] + eye[1] * half[1] + eye[2] * half[2]) / size, 0.0)
                wide_lamp = max(spread, lamps[lamp, 3])
                peak = along * along * (wide_lamp * wide_lamp - 1) + 1
                grains = wide_lamp * wide_lamp / (math.pi * peak * peak)
                hides = reach * math.sqrt(facing * facing * (1 - spread) + spread)
                hides += facing * math.sqrt(reach * reach * (1 - spread) + spread)
                shadow = 0.5 / max(hides, 1e-4)
                for k in range(3):
                    base = 0.04 * (1 - metal) + colour[k] * metal
                    back = base + (1 - base) * _fifth(1 - meets)
                    gloss = min(back * grains * shadow, 6.0)
                    light[k] += lamps[lamp, 4] * reach * ((1 - metal) * colour[k] + gloss)
            left = 1 - image[row, column, 3]
            for k in range(3):
                image[row, column, k] += left * cover * light[k]
            image[row, column, 3] += left * cover
            if image[row, column, 3] <= 0.995:
                through = True
    return through


@njit(cache=True, fastmath=True)
def _fifth(x):  # type: ignore[no-untyped-def]
    return x * x * x * x * x


@njit(cache=True)
def _sky(normal):  # type: ignore[no-untyped-def]
    """Light from all round on a matt face, by which way it looks."""
    return 0.40 + 0.17 * normal[2] + 0.03 * normal[0]


@njit(cache=True, fastmath=True)
def _room(way, rough, lamps):  # type: ignore[no-untyped-def]
    """Light of the room from one way, as blurred as a surface is rough."""
    level = 0.36 + 0.2 * way[2]
    soft = 0.05 + 0.9 * rough
    for lamp in range(lamps.shape[0]):
        towards = way[0] * lamps[lamp, 0] + way[1] * lamps[lamp, 1] + way[2] * lamps[lamp, 2]
        if towards < 0:
            continue
        off = math.sqrt(2 * max(1 - towards, 0.0))  # nearly the angle between them
        inside = 1 - min(max((off - lamps[lamp, 5]) / soft, 0.0), 1.0)
        level += lamps[lamp, 6] * inside * inside * (3 - 2 * inside) * (1 - 0.8 * rough)
    return level


@njit(cache=True)
def _ink(colour, pixels, size, u, v):  # type: ignore[no-untyped-def]
    """The colour of a print at a place of it, between its pixels; returns how much it covers."""
    begin, high, wide = size
    x = min(max(u * wide - 0.5, 0.0), wide - 1.0)
    y = min(max(v * high - 0.5, 0.0), high - 1.0)
    left, top = int(x), int(y)
    right, under = min(left + 1, wide - 1), min(top + 1, high - 1)
    fx, fy = x - left, y - top
    cover = 0.0
    colour[0] = colour[1] = colour[2] = 0.0
    for row, column, weight in (
        (top, left, (1 - fx) * (1 - fy)),
        (top, right, fx * (1 - fy)),
        (under, left, (1 - fx) * fy),
        (under, right, fx * fy),
    ):
        at = begin + 4 * (row * wide + column)
        inked = weight * pixels[at + 3] / 255.0
        cover += inked
        for k in range(3):
            channel = pixels[at + k] / 255.0
            colour[k] += inked * channel * channel * (0.695 * channel + 0.305)  # sRGB's curve within 0.01
    if cover > 0:
        for k in range(3):
            colour[k] /= cover
    return cover


def warm() -> None:
    """Compile it, so that the first picture does not wait."""
    one = np.zeros((2, 2))
    ident: Ints = np.full((2, 2), -1, dtype=np.int32)
    shares: Floats = np.zeros((2, 2, 2))
    corners, none = np.zeros((1, 3, 3)), np.zeros(1, dtype=np.int64)
    layer(one, one.copy(), ident, shares, corners, np.zeros(1, dtype=np.bool_))
    ident[:] = 0
    sizes = np.array([[0, 1, 1]])
    lamps = np.zeros((1, 7))
    looks, places, pixels = np.zeros((1, LOOK)), np.zeros((1, 3, 2)), np.zeros(4, dtype=np.uint8)
    shade(np.zeros((2, 2, 4)), ident, shares, corners, none, looks, none, places, pixels, sizes, lamps, np.eye(3))
