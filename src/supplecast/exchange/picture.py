"""Pictures of bodies in what they wear, drawn where no browser is at hand: for lists, reports and files to show around."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from supplecast.exchange.raster import LOOK, layer, shade
from supplecast.exchange.triangles import Part
from supplecast.geometry import Bools, Floats, Frame, Rows, Vec

Background = Literal["none", "bench", "paper", "dusk"]
_FINER = 2
_STRIP = 192  # rows drawn at a time: a picture of 4k takes no more room than one of them
_LAYERS = 12
_OVER = 2e-4  # of the size of what is drawn: prints lie so much nearer to the eye than what they are on
_FILLED = 0.86
_SHADOW = 160  # cells of the shadow's grid
_GROUNDS: dict[Background, tuple[str, str]] = {
    "bench": ("#F4F7F5", "#DFE5E2"),
    "paper": ("#FFFFFF", "#F1EFE9"),
    "dusk": ("#4A5A5C", "#1D2728"),
}
# Lamps: from the eye's right, up and towards it; how wide its gloss is; light on matt faces; radius and brightness in a mirror.
# The first is the sun over the left shoulder.
_LAMPS = (
    (-0.5, 0.62, 0.6, 0.16, 0.46, 0.22, 1.5),
    (0.75, 0.1, 0.65, 0.3, 0.1, 0.35, 0.5),
    (0.0, 0.97, 0.2, 0.3, 0.06, 0.4, 0.9),
)

Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Shot:
    """How bodies are looked at: size in pixels, yaw and pitch in rad as the view has them, which way is up, what is behind
    them, and whether all is to be seen through.
    """

    width: int = 320
    height: int = 200
    yaw: float = -0.62
    pitch: float = 0.62
    up: Vec = (0.0, 0.0, 1.0)
    background: Background = "none"
    see_through: bool = False


def draw(
    parts: Sequence[Part],
    width: int = 320,
    height: int = 200,
    yaw: float = -0.62,
    pitch: float = 0.62,
    up: Vec = (0.0, 0.0, 1.0),
) -> bytes:
    """PNG with transparent ground, bodies seen obliquely as in the view; `up` is the way that is up."""
    return encoded(render(parts, Shot(width, height, yaw, pitch, up)))


def encoded(pixels: Pixels) -> bytes:
    """Pixels as PNG."""
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG")
    return stream.getvalue()


def turning(
    parts: Sequence[Part], shot: Shot, frames: int, format: Literal["webp", "gif"], seconds: float,
    told: Callable[[int], None] = lambda frame: None,
) -> bytes:  # fmt: skip
    """A film in which bodies turn once round; `told` hears the number of each picture before it is drawn. All of it fits in."""
    scene = _Scene(parts, shot.see_through)
    yaws = [shot.yaw + 2 * math.pi * k / frames for k in range(frames)]
    scale = min(scene.scale(replace(shot, yaw=yaw)) for yaw in yaws)
    pictures = []
    for number, yaw in enumerate(yaws, 1):
        told(number)
        pictures.append(Image.fromarray(_drawn(scene, replace(shot, yaw=yaw), scale)))
    stream = io.BytesIO()
    pause = round(1000 * seconds / frames)
    more = {"lossless": False, "quality": 82, "method": 3} if format == "webp" else {"disposal": 2, "optimize": True}
    pictures[0].save(stream, format.upper(), save_all=True, append_images=pictures[1:], duration=pause, loop=0, **more)
    return stream.getvalue()


def render(parts: Sequence[Part], shot: Shot) -> Pixels:
    """Bodies as pixels (h, w, 4), fitted into the picture, drawn twice as fine and averaged."""
    scene = _Scene(parts, shot.see_through)
    return _drawn(scene, shot, scene.scale(shot))


def _axes(shot: Shot) -> Floats:
    """Right, up and towards the eye, by rows, in space."""
    frame = Frame.lying((0.0, 0.0, 0.0), shot.up)
    c = math.cos(shot.pitch)
    direction = np.array([c * math.sin(shot.yaw), -c * math.cos(shot.yaw), math.sin(shot.pitch)])
    right = np.array([math.cos(shot.yaw), math.sin(shot.yaw), 0.0])
    axes: Floats = np.array([right, np.cross(direction, right), direction]) @ np.array([frame.x, frame.y, frame.normal])
    return axes


class _Scene:
    """All triangles of some bodies and their prints, with what they look like, ready to be drawn from any side."""

    def __init__(self, parts: Sequence[Part], see_through: bool) -> None:
        corners, normals, of, prints, places = [], [], [], [], []
        looks: list[tuple[float, ...]] = []
        self.images: list[Pixels] = []
        self.sizes: list[float] = []  # mm across each print's picture
        for part in parts:
            mesh = part.mesh
            first = len(looks)
            for look in part.worn:
                cover = min(look.cover, 0.3) if see_through else look.cover
                looks.append((*look.shade, cover, look.roughness, 1.0 if look.kind == "metal" else 0.0))
            corners.append(mesh.points[mesh.triangles])
            normals.append(mesh.normals[mesh.triangles])
            of.append(part.look_of + first)
            prints.append(np.full(len(mesh.triangles), -1))
            places.append(np.zeros((len(mesh.triangles), 3, 2)))
            for one in part.prints:
                count = len(one.cut.points) // 3
                if not count:
                    continue
                corners.append(one.cut.points.reshape(-1, 3, 3))
                normals.append(one.cut.normals.reshape(-1, 3, 3))
                of.append(np.full(count, len(looks)))
                looks.append((1.0, 1.0, 1.0, 1.0, 0.5, 0.0))
                prints.append(np.full(count, len(self.images)))
                places.append(one.cut.places.reshape(-1, 3, 2))
                self.images.append(one.pixels)
                self.sizes.append(_across(one.cut.points, one.cut.places))
        self.corners = np.concatenate(corners)
        self.normals = np.ascontiguousarray(np.concatenate(normals), dtype=np.float64)
        self.look_of: Rows = np.concatenate(of).astype(np.int64)
        self.looks = np.array(looks).reshape(-1, LOOK)
        self.print_of: Rows = np.concatenate(prints).astype(np.int64)
        self.places = np.concatenate(places)
        self.behind: Bools = self.looks[self.look_of, 3] < 1
        self.points = self.corners.reshape(-1, 3)

    def scale(self, shot: Shot) -> float:
        """Pixels to a mm that fit everything in."""
        flat: Floats = self.points @ _axes(shot)[:2].T
        wide, high = np.maximum(flat.max(axis=0) - flat.min(axis=0), 1e-9)
        return float(_FILLED * min(shot.width / wide, shot.height / high))

    def inks(self, scale: float) -> tuple[Pixels, Rows]:
        """The pictures of all prints one after another, about as fine as they are seen, and where each begins, its height and
        width.
        """
        rows, held, begin = [], [], 0
        for image, across in zip(self.images, self.sizes, strict=True):
            share = min(1.0, 1.5 * across * scale / image.shape[1])
            size = (max(1, round(image.shape[1] * share)), max(1, round(image.shape[0] * share)))
            small = np.asarray(Image.fromarray(image).resize(size, Image.Resampling.LANCZOS)) if share < 1 else image
            rows.append((begin, small.shape[0], small.shape[1]))
            held.append(np.ascontiguousarray(small).reshape(-1))
            begin += len(held[-1])
        none = np.zeros(4, dtype=np.uint8)
        return (np.concatenate(held) if held else none), np.array(rows or [(0, 1, 1)], dtype=np.int64)


def _across(points: Floats, places: Floats) -> float:
    """About how wide in mm a picture is as it lies, by how far places of it are apart."""
    a, b = points.reshape(-1, 3, 3), places.reshape(-1, 3, 2)
    long = np.linalg.norm(a[:, 1] - a[:, 0], axis=1)
    share = np.linalg.norm(b[:, 1] - b[:, 0], axis=1)
    return float(long.sum() / max(float(share.sum()), 1e-12))


def _drawn(scene: _Scene, shot: Shot, scale: float) -> Pixels:
    axes = _axes(shot)
    seen = scene.points @ axes.T
    low, high = seen.min(axis=0), seen.max(axis=0)
    middle, fine = (low + high) / 2, scale * _FINER
    wide, tall = shot.width * _FINER, shot.height * _FINER
    flat = np.column_stack(
        [(seen[:, 0] - middle[0]) * fine + wide / 2, tall / 2 - (seen[:, 1] - middle[1]) * fine, seen[:, 2]]
    ).reshape(-1, 3, 3)
    size = float(np.linalg.norm(high - low))
    flat[:, :, 2] += np.where(scene.print_of >= 0, 1 + scene.print_of, 0)[:, None] * _OVER * size
    lamps = np.array([[*(np.array(row[:3]) / np.linalg.norm(row[:3])) @ axes, *row[3:]] for row in _LAMPS])
    pixels, sizes = scene.inks(fine)
    picture = np.empty((shot.height, shot.width, 4))
    tops = flat[:, :, 1].min(axis=1)
    ends = flat[:, :, 1].max(axis=1)
    for top in range(0, tall, _STRIP):
        rows = min(_STRIP, tall - top)
        mine = np.flatnonzero((ends > top - 1) & (tops < top + rows + 1))
        strip = np.zeros((rows, wide, 4))
        if len(mine):
            corners = flat[mine] - np.array([0.0, top, 0.0])
            _lay(strip, corners, scene, mine, lamps, axes, pixels, sizes)
        quarters = (strip[0::2, 0::2], strip[0::2, 1::2], strip[1::2, 0::2], strip[1::2, 1::2])
        picture[top // _FINER : (top + rows) // _FINER] = sum(quarters[1:], quarters[0]) / 4
    if shot.background != "none":
        _put_behind(picture, scene, shot, scale, middle)
    return _as_bytes(picture)


def _lay(
    strip: Floats, corners: Floats, scene: _Scene, mine: Rows, lamps: Floats, axes: Floats, pixels: Pixels, sizes: Rows
) -> None:
    """Draw triangles into a strip, layer behind layer, until nothing lets through any more."""
    shape = strip.shape[:2]
    before = np.full(shape, np.inf)
    of = (scene.normals[mine], scene.look_of[mine], scene.looks, scene.print_of[mine], scene.places[mine])
    behind = scene.behind[mine]
    for _ in range(_LAYERS):
        depth, ident = np.full(shape, -np.inf), np.full(shape, -1, dtype=np.int32)
        shares = np.zeros((*shape, 2))
        layer(before, depth, ident, shares, corners, behind)
        if not shade(strip, ident, shares, *of, pixels, sizes, lamps, axes):
            return
        before = np.where(ident >= 0, depth - 1e-9, -np.inf)


def _put_behind(picture: Floats, scene: _Scene, shot: Shot, scale: float, middle: Floats) -> None:
    """A calm ground behind what is drawn, with a soft shadow where it stands."""
    near, far = (_light(colour) for colour in _GROUNDS[shot.background])
    y, x = np.mgrid[0 : shot.height, 0 : shot.width]
    away = np.hypot(x / shot.width - 0.42, y / shot.height - 0.35)
    share = np.clip(away / 0.75, 0, 1)[..., None]
    ground = np.array(near) * (1 - share) + np.array(far) * share
    ground *= 1 - _shadow(scene, shot, scale, middle, x, y)[..., None]
    left = 1 - picture[..., 3:]
    picture[..., :3] += left * ground
    picture[..., 3] = 1.0


def _shadow(scene: _Scene, shot: Shot, scale: float, middle: Floats, x: Floats, y: Floats) -> Floats:
    """How dark the floor is at each pixel, (h, w): the darker, the nearer to it the bodies are there; not at all from below."""
    axes = _axes(shot)
    frame = Frame.lying((0.0, 0.0, 0.0), shot.up)
    lying = scene.points @ np.array([frame.x, frame.y, frame.normal]).T
    low, high = lying.min(axis=0), lying.max(axis=0)
    towards = axes[2] @ np.array(frame.normal)
    if towards < 0.05:
        return np.zeros(x.shape)
    side = 1.7 * max(high[0] - low[0], high[1] - low[1], 0.5 * (high[2] - low[2]))
    centre = (low + high)[:2] / 2
    cell = side / _SHADOW
    corners = np.column_stack([(lying[:, :2] - centre) / cell + _SHADOW / 2, low[2] - lying[:, 2]]).reshape(-1, 3, 3)
    shape = (_SHADOW, _SHADOW)
    depth, ident = np.full(shape, -np.inf), np.full(shape, -1, dtype=np.int32)
    layer(
        np.full(shape, np.inf), depth, ident, np.zeros((*shape, 2)), np.ascontiguousarray(corners), np.ones(len(corners), bool)
    )
    height = np.where(np.isfinite(depth), -depth, np.inf)
    dark = np.clip(1 - height / (0.45 * side), 0, 1) ** 1.6 * 0.62
    dark = ndimage.gaussian_filter(dark, _SHADOW / 60)
    # Where the line of sight through each pixel meets the floor.
    across = (x + 0.5 - shot.width / 2) / scale + middle[0]
    upwards = (shot.height / 2 - y - 0.5) / scale + middle[1]
    start = across[..., None] * axes[0] + upwards[..., None] * axes[1]
    far = (low[2] - 0.002 * side - start @ np.array(frame.normal)) / towards
    met = start + far[..., None] * axes[2]
    u = (met @ np.array(frame.x) - centre[0]) / cell + _SHADOW / 2
    v = (met @ np.array(frame.y) - centre[1]) / cell + _SHADOW / 2
    return np.asarray(ndimage.map_coordinates(dark, [v - 0.5, u - 0.5], order=1, mode="constant"))


def _light(colour: str) -> list[float]:
    channels = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    return [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]


def _as_bytes(picture: Floats) -> Pixels:
    """Light as pixels, sRGB (IEC 61966-2-1)."""
    cover = picture[..., 3:]
    light = np.divide(picture[..., :3], cover, out=np.zeros_like(picture[..., :3]), where=cover > 0)
    light = np.clip(light, 0, 1)
    channels = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    pixels: Pixels = (np.concatenate([channels, cover], axis=-1) * 255).round().astype(np.uint8)
    return pixels
