"""A small shaded picture of bodies as PNG, drawn with NumPy: for lists and reports, where no browser is at hand."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence

import numpy as np
from PIL import Image

from supplecast.exchange.raster import fill
from supplecast.exchange.triangles import Part
from supplecast.geometry import Floats, Frame, Vec

_FINER = 2


def draw(
    parts: Sequence[Part],
    width: int = 320,
    height: int = 200,
    yaw: float = -0.62,
    pitch: float = 0.62,
    up: Vec = (0.0, 0.0, 1.0),
) -> bytes:
    """PNG with transparent ground, bodies seen obliquely as in the view, drawn twice as fine and averaged; `up` is the way
    that is up.
    """
    w, h = width * _FINER, height * _FINER
    frame = Frame.lying((0.0, 0.0, 0.0), up)
    axes = _axes(yaw, pitch) @ np.array([frame.x, frame.y, frame.normal])
    clouds = [part.mesh.points @ axes.T for part in parts]
    low = np.min([c.min(axis=0) for c in clouds], axis=0)
    high = np.max([c.max(axis=0) for c in clouds], axis=0)
    scale = 0.86 * min(w / (high[0] - low[0]), h / (high[1] - low[1]))
    middle = (low + high) / 2
    depth = np.full((h, w), -np.inf)
    image = np.zeros((h, w, 4))
    for part, cloud in zip(parts, clouds, strict=True):
        colour = np.array([int(part.colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
        flat = np.column_stack(
            [(cloud[:, 0] - middle[0]) * scale + w / 2, h / 2 - (cloud[:, 1] - middle[1]) * scale, cloud[:, 2]]
        )
        light = np.clip(part.mesh.normals @ (axes.T @ np.array([-0.35, 0.55, 0.75])), 0, None) * 0.5 + 0.52
        shades = np.clip(colour * light[part.mesh.triangles].mean(axis=1)[:, None], 0, 1)
        fill(image, depth, flat[part.mesh.triangles], np.column_stack([shades, np.ones(len(shades))]))
    small = image.reshape(height, _FINER, width, _FINER, 4).mean(axis=(1, 3))
    small[..., :3] = np.divide(small[..., :3], small[..., 3:], where=small[..., 3:] > 0, out=np.zeros_like(small[..., :3]))
    stream = io.BytesIO()
    Image.fromarray((small * 255).round().astype(np.uint8)).save(stream, "PNG")
    return stream.getvalue()


def _axes(yaw: float, pitch: float) -> Floats:
    c = math.cos(pitch)
    direction = np.array([c * math.sin(yaw), -c * math.cos(yaw), math.sin(pitch)])
    right = np.array([math.cos(yaw), math.sin(yaw), 0.0])
    return np.array([right, np.cross(direction, right), direction])
