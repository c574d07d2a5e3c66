"""Triangles drawn into an image with a depth for each pixel, compiled: a tool has a quarter of a million of them."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from supplecast.geometry import Floats

_EDGE = 1e-9  # a pixel on the line between two triangles belongs to both


def fill(image: Floats, depth: Floats, corners: Floats, colours: Floats) -> None:
    """Draw triangles (n, 3, 3), of x and y in pixels from the upper left and how near they are, each in its colour (n, 4), into
    an image (h, w, 4) with depths (h, w). Those seen from behind are left out; of two the nearer one stays.
    """
    _fill(image, depth, np.ascontiguousarray(corners, dtype=np.float64), np.ascontiguousarray(colours, dtype=np.float64))


@njit(cache=True)
def _fill(image, depth, corners, colours):  # type: ignore[no-untyped-def]
    high, wide = depth.shape
    for n in range(corners.shape[0]):
        x0, y0, z0 = corners[n, 0]
        x1, y1, z1 = corners[n, 1]
        x2, y2, z2 = corners[n, 2]
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        if area >= 0:  # seen from behind (rows run downwards)
            continue
        left, right = max(int(min(x0, x1, x2)), 0), min(math.ceil(max(x0, x1, x2)) + 1, wide)
        top, bottom = max(int(min(y0, y1, y2)), 0), min(math.ceil(max(y0, y1, y2)) + 1, high)
        for row in range(top, bottom):
            y = row + 0.5
            for column in range(left, right):
                x = column + 0.5
                a = ((x1 - x) * (y2 - y) - (x2 - x) * (y1 - y)) / area
                b = ((x2 - x) * (y0 - y) - (x0 - x) * (y2 - y)) / area
                if a < -_EDGE or b < -_EDGE or a + b > 1 + _EDGE:
                    continue
                z = a * z0 + b * z1 + (1 - a - b) * z2
                if z > depth[row, column]:
                    depth[row, column] = z
                    for k in range(4):
                        image[row, column, k] = colours[n, k]


def warm() -> None:
    """Compile it, so that the first picture does not wait."""
    fill(np.zeros((2, 2, 4)), np.zeros((2, 2)), np.zeros((1, 3, 3)), np.zeros((1, 4)))
