"""Skins in closed form, and pictures, for what is laid on faces."""

from __future__ import annotations

import io
import math
from typing import Any

import numpy as np
from PIL import Image

BAT = (
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 120 60">'
    b'<path d="M60 30c-8-16-28-22-52-18 8 4 12 9 13 15 6-3 12-2 16 3 '
    b'6-4 12-3 16 4l7 12 7-12c4-7 10-8 16-4 4-5 10-6 16-3 1-6 5-11 13-15-24-4-44 2-52 18z" fill="#1F3A36"/></svg>'
)


def quarters() -> bytes:
    """A picture of four colours: red, green, blue and one that lets through, from the upper left."""
    pixels = np.zeros((40, 80, 4), dtype=np.uint8)
    pixels[:20, :40] = (220, 30, 30, 255)
    pixels[:20, 40:] = (30, 180, 40, 255)
    pixels[20:, :40] = (30, 60, 220, 255)
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG")
    return stream.getvalue()


def lathe(radius: Any, height: Any, around: int, along: int, turn: float = 0.0) -> tuple[Any, Any, Any]:
    """Points, outward normals and triangles of a skin turned about z; radius and height are functions of a share from 0 to 1.
    Its seam, where points are doubled, is at `turn` rad.
    """
    shares, angles = np.linspace(0, 1, along + 1), np.linspace(0, 2 * math.pi, around + 1) + turn
    r, z = np.array([radius(s) for s in shares]), np.array([height(s) for s in shares])
    slope = np.gradient(r, shares), np.gradient(z, shares)
    size = np.hypot(*slope)
    c, s = np.cos(angles), np.sin(angles)
    points = np.stack([r[:, None] * c, r[:, None] * s, np.broadcast_to(z[:, None], (along + 1, around + 1))], axis=-1)
    out, up = slope[1] / size, -slope[0] / size
    normals = np.stack([out[:, None] * c, out[:, None] * s, np.broadcast_to(up[:, None], (along + 1, around + 1))], axis=-1)
    a = (np.arange(along)[:, None] * (around + 1) + np.arange(around)).ravel()
    b, d, e = a + 1, a + around + 1, a + around + 2
    triangles = np.concatenate([np.stack([a, b, e], axis=1), np.stack([a, e, d], axis=1)]).astype(np.int32)
    return points.reshape(-1, 3), normals.reshape(-1, 3), triangles


def area(points: Any) -> float:
    """Of triangles, three rows each."""
    a, b, c = np.asarray(points).reshape(-1, 3, 3).transpose(1, 0, 2)
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)
