"""Pictures to print: PNG, JPEG and SVG, read with care, as pixels with their transparency."""

from __future__ import annotations

import io
import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from supplecast.errors import SuppleError
from supplecast.geometry import Bools

LARGEST = 24 * 2**20
FINEST = 2048
"""Pixels along the longer side of what is painted on a face; finer pictures are made smaller for it."""
_MOST_PIXELS = 100_000_000
_MOST_SHAPES = 20_000
_SHEER = 2000  # at most so many times as wide as high, or the other way round
_FORMATS = "Save it as PNG, JPEG or SVG."
_SMALLER = "Save it with at most 100 million pixels."
_DAMAGED, _AGAIN = "The picture is damaged or cut short.", "Save it again from where it was made."
_ACTIVE = {"script", "foreignObject", "iframe", "audio", "video", "animate", "set", "animateMotion", "animateTransform"}
_OUTSIDE = re.compile(r"url\(\s*['\"]?\s*(?!#|['\"]|data:image/(?:png|jpeg);)|@import", re.IGNORECASE)
_INSIDE = re.compile(r"^\s*(#|data:image/(png|jpeg);)", re.IGNORECASE)

Pixels = NDArray[np.uint8]
"""Rows from the top, columns from the left, red, green, blue and cover: (h, w, 4)."""


@dataclass(frozen=True)
class Facts:
    """What a file says of itself: its kind and its size, in pixels; of a drawing in its own units: it is sharp at any size."""

    kind: Literal["png", "jpeg", "svg"]
    width: float
    height: float

    @property
    def ratio(self) -> float:
        """Height by width."""
        return self.height / self.width


def read(content: bytes) -> Facts:
    """What kind of picture a file holds, and how large. SuppleError for what is none, too large, or would reach outside."""
    if len(content) > LARGEST:
        raise SuppleError("The picture is larger than 24 MB.", "Save it smaller.")
    if not content:
        raise SuppleError("The file is empty.", _FORMATS)
    facts = _drawing(content) if is_drawing(content) else _photo(content)
    if not 1 / _SHEER <= facts.ratio <= _SHEER:
        raise SuppleError("The picture is a mere line.", f"It may be {_SHEER} times as long as wide, at most.")
    return facts


def is_drawing(content: bytes) -> bool:
    """Whether a file is an SVG."""
    head = content[:65536]
    return b"<svg" in head or "<svg" in head.decode("utf-16", "ignore")


def pixels(content: bytes, most: int = FINEST) -> Pixels:
    """The picture with its longer side at most so many pixels; a drawing with just so many."""
    try:
        return _pixels(content, most)
    except (OSError, SyntaxError, ValueError) as fault:  # cut short, which only shows once it is unpacked
        raise SuppleError(_DAMAGED, _AGAIN) from fault


def _pixels(content: bytes, most: int) -> Pixels:
    image = Image.open(io.BytesIO(_rendered(content, most))) if is_drawing(content) else _opened(content)
    with image:
        if max(image.size) > most:
            image.draft("RGB", (most, most))
            image = image.convert("RGBA")
            share = most / max(image.size)
            size = (max(1, round(image.width * share)), max(1, round(image.height * share)))
            image = image.resize(size, Image.Resampling.LANCZOS, reducing_gap=3.0)
        return np.asarray(image.convert("RGBA"))


def in_one(held: Pixels, colour: str) -> Pixels:
    """The picture in one colour, such as #1F3A36: where it is dark, or, where it lets things through, where it covers."""
    cover = held[..., 3].astype(np.float64)
    if cover.min() > 250:  # nothing lets through: what is light is taken for paper
        light = held[..., :3] @ np.array([0.299, 0.587, 0.114])
        cover = 255.0 - light
    made = np.empty_like(held)
    made[..., :3] = [int(colour[k : k + 2], 16) for k in (1, 3, 5)]
    made[..., 3] = cover.round()
    return made


def tiled(held: Pixels, columns: int, rows: int, across: float, along: float, *, mirrored: bool) -> Pixels:
    """All copies of a picture as one, that far apart in pictures' widths and heights, with nothing between them; no larger than
    what is painted on a face.
    """
    held = held[:, ::-1] if mirrored else held
    if columns == rows == 1:
        return held
    wide, high = 1 + (columns - 1) * across, 1 + (rows - 1) * along
    share = min(1.0, FINEST / max(wide * held.shape[1], high * held.shape[0]))
    size = (max(1, round(share * held.shape[1])), max(1, round(share * held.shape[0])))
    one = np.asarray(Image.fromarray(held).resize(size, Image.Resampling.LANCZOS))
    whole = np.zeros((max(round(high * size[1]), 1), max(round(wide * size[0]), 1), 4), dtype=np.uint8)
    for row in range(rows):
        for column in range(columns):
            top, left = round((rows - 1 - row) * along * size[1]), round(column * across * size[0])
            place = whole[top : top + size[1], left : left + size[0]]
            place[...] = one[: place.shape[0], : place.shape[1]]
    return whole


def over(held: Pixels, colour: str) -> Pixels:
    """The picture laid on a colour, with a rim of a pixel of nothing but that."""
    ground = np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)], dtype=np.float64)
    cover = held[..., 3:] / 255.0
    laid = np.empty((held.shape[0] + 2, held.shape[1] + 2, 4), dtype=np.uint8)
    laid[...] = (*ground.astype(np.uint8), 255)
    laid[1:-1, 1:-1, :3] = (held[..., :3] * cover + ground * (1 - cover)).round()
    return laid


def as_png(held: Pixels) -> bytes:
    stream = io.BytesIO()
    Image.fromarray(held).save(stream, "PNG", compress_level=4)
    return stream.getvalue()


@lru_cache(maxsize=1)
def check_card() -> Pixels:
    """What is laid on a face until a picture is chosen: squares of a tenth of its width, with an arrow upwards."""
    side, square = 1000, 100
    y, x = np.mgrid[0:side, 0:side]
    odd = (x // square + y // square) % 2 == 1
    card = np.empty((side, side, 4), dtype=np.uint8)
    card[...] = (247, 243, 232, 255)
    card[odd] = (58, 108, 112, 255)
    middle = side / 2
    head = (y >= 140) & (y < 420) & (np.abs(x - middle) < (y - 140) * 0.62)
    shaft = (y >= 420) & (y < 820) & (np.abs(x - middle) < 60)
    card[_grown(head | shaft, 14)] = (247, 243, 232, 255)
    card[head | shaft] = (203, 132, 0, 255)
    rim = (np.minimum(x, side - 1 - x) < 8) | (np.minimum(y, side - 1 - y) < 8)
    card[rim] = (31, 58, 54, 255)
    return card


def _grown(mask: Bools, by: int) -> Bools:
    wide = mask.copy()
    for step in range(1, by + 1):
        wide[step:] |= mask[:-step]
        wide[:-step] |= mask[step:]
    tall = wide.copy()
    for step in range(1, by + 1):
        wide[:, step:] |= tall[:, :-step]
        wide[:, :-step] |= tall[:, step:]
    return wide


def _opened(content: bytes) -> Image.Image:
    return Image.open(io.BytesIO(content), formats=("PNG", "JPEG"))


def _photo(content: bytes) -> Facts:
    try:
        with _opened(content) as image:
            width, height = image.size
            kind: Literal["png", "jpeg"] = "png" if image.format == "PNG" else "jpeg"
            if width * height > _MOST_PIXELS:
                raise SuppleError(f"The picture has {width} × {height} pixels.", _SMALLER)
    except Image.DecompressionBombError as fault:
        raise SuppleError("The picture has too many pixels.", _SMALLER) from fault
    except UnidentifiedImageError as fault:
        raise SuppleError("The file is no PNG, JPEG or SVG picture.", _FORMATS) from fault
    except (OSError, SyntaxError, ValueError) as fault:
        raise SuppleError(_DAMAGED, _AGAIN) from fault
    return Facts(kind, width, height)


def _drawing(content: bytes) -> Facts:
    try:
        root = fromstring(content, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except (DefusedXmlException, ParseError, ValueError, LookupError) as fault:
        raise SuppleError("The drawing cannot be read as SVG.", "Save it again, as plain SVG.") from fault
    shapes = list(root.iter())
    if len(shapes) > _MOST_SHAPES:
        raise SuppleError(f"The drawing holds {len(shapes)} shapes.", f"Simplify it to {_MOST_SHAPES} at most.")
    for shape in shapes:
        _refuse_unsafe(shape)
    width, height = _size(root)
    return Facts("svg", width, height)


def _refuse_unsafe(shape: Any) -> None:
    name = str(shape.tag).rsplit("}", 1)[-1]
    if name in _ACTIVE:
        raise SuppleError(f"The drawing holds a <{name}>, which can do things of its own.", "Save it as plain SVG.")
    if name in ("text", "tspan"):
        raise SuppleError("The drawing holds text, which looks otherwise wherever its font is not at hand.",
                          "Turn the text into paths and save it again.")  # fmt: skip
    if name == "style" and _OUTSIDE.search(shape.text or ""):
        raise SuppleError("The drawing fetches something from outside.", "Save it as plain SVG, with all it needs inside.")
    for key, value in shape.attrib.items():
        plain = key.rsplit("}", 1)[-1].lower()
        if plain.startswith("on"):
            raise SuppleError("The drawing holds scripts.", "Save it as plain SVG.")
        if (plain == "href" and not _INSIDE.match(value) and name != "a") or _OUTSIDE.search(value):
            raise SuppleError("The drawing fetches something from outside.", "Save it as plain SVG, with all it needs inside.")


def _size(root: Any) -> tuple[float, float]:
    """Width and height in the drawing's own units: of its view box, else as it says."""
    box = re.split(r"[\s,]+", root.get("viewBox", "").strip())
    try:
        if len(box) == 4:
            width, height = float(box[2]), float(box[3])
        else:
            width, height = (
                float(re.sub(r"(px|mm|cm|in|pt)$", "", root.get(side, "").strip())) for side in ("width", "height")
            )
    except ValueError as fault:
        raise SuppleError("The drawing does not say how large it is.", "Give it a view box, or width and height.") from fault
    if not (math.isfinite(width) and math.isfinite(height) and width > 0 and height > 0):
        raise SuppleError("The drawing has no size.", "Give it a view box, or width and height.")
    return width, height


def _rendered(content: bytes, most: int) -> bytes:
    import resvg_py  # half a megabyte of code that only drawings need

    facts = _drawing(content)
    wide, high = (most, None) if facts.width >= facts.height else (None, most)
    text = content.decode("utf-8-sig") if b"\0" not in content[:64] else content.decode("utf-16")
    try:
        return bytes(resvg_py.svg_to_bytes(svg_string=text, skip_system_fonts=True, width=wide, height=high))
    except (ValueError, UnicodeDecodeError) as fault:
        raise SuppleError("The drawing cannot be drawn.", "Save it again, as plain SVG.") from fault
