"""The first guess of an outline in a photo, against the shape that was drawn into it (by Pillow, at four times the size)."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
from PIL import Image, ImageDraw

from supplecast.curves import Arc2, Circle2, Curve2, Line2
from supplecast.errors import SuppleError
from supplecast.exchange.tracing import trace
from supplecast.sketch.acts.take import as_taken
from supplecast.sketch.belongings import Photo
from supplecast.sketch.model import Drawing
from tests.referee.sketches import act, areas

GROUND, PART = (236, 238, 233), (70, 84, 96)


def picture(*, turn: float = 0.0, noise: float = 4.0) -> bytes:
    """A plate of 90 × 50 mm with corners of 8, a notch of 20 × 5 in its lower side and three holes, ten pixels to a mm."""
    wide, high, more = 1200, 800, 4
    image = Image.new("RGB", (wide * more, high * more), GROUND)
    pen = ImageDraw.Draw(image)

    def box(x0: float, y0: float, x1: float, y1: float) -> tuple[float, float, float, float]:
        return (x0 * more, y0 * more, x1 * more, y1 * more)

    pen.rounded_rectangle(box(150, 150, 1050, 650), 80 * more, fill=PART)
    pen.rectangle(box(500, 600, 700, 700), fill=GROUND)
    for x, y, r in ((300, 300, 40), (900, 300, 40), (600, 380, 90)):
        pen.ellipse(box(x - r, y - r, x + r, y + r), fill=GROUND)
    image = image.rotate(turn, fillcolor=GROUND, resample=Image.Resampling.BICUBIC).resize(
        (wide, high), Image.Resampling.LANCZOS
    )
    grain = np.random.default_rng(1).normal(0, noise, (high, wide, 3))
    file = io.BytesIO()
    Image.fromarray((np.asarray(image) + grain).clip(0, 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


def kept(**more: object) -> Photo:
    return Photo.model_validate({"asset": "0" * 64, "pixels": (1200, 800), "width": 120.0, **more})


PLATE = 90 * 50 - (4 - math.pi) * 64 - 20 * 5
HOLES = math.pi * (4**2 + 4**2 + 9**2)


def kinds(curves: list[Curve2]) -> tuple[int, int, int]:
    return (
        sum(isinstance(c, Line2) for c in curves),
        sum(isinstance(c, Arc2) for c in curves),
        sum(isinstance(c, Circle2) for c in curves),
    )


@pytest.mark.parametrize("turn", [0.0, 17.0])
def test_a_plate_on_a_plain_ground_is_guessed_to_a_pixel(turn: float) -> None:
    """Seven sides, a notch of three and four rounded corners, and holes: each piece as it was drawn, within a pixel."""
    traced = trace(picture(turn=turn), kept(turn=-turn))
    assert kinds(traced.curves) == (8, 4, 3) and traced.off < 0.2
    rounds = sorted(c.radius for c in traced.curves if isinstance(c, (Arc2, Circle2)))
    assert rounds == pytest.approx([4, 4, 8, 8, 8, 8, 9], abs=0.06)
    drawing = act(Drawing(), {"do": "trace", "curves": [as_taken(curve) for curve in traced.curves], "off": traced.off})
    assert max(areas(drawing.drawing)) == pytest.approx(PLATE - HOLES, rel=1e-3)
    assert {held.type for held in drawing.drawing.constraints.values()} == {"horizontal", "vertical", "tangent"}


def test_a_photo_is_stretched_by_what_lies_across_and_up_and_traced_as_it_lies() -> None:
    drawing = act(Drawing(), {"do": "add photo", "photo": kept().model_dump(mode="json")}).drawing
    (name,) = drawing.photos
    # The plate's corners lie at ±45 and ±25 mm: said to be 180 across and 50 up.
    wide = act(drawing, {"do": "size photo", "name": name, "a": [-45, -25], "b": [45, 25], "across": "180", "up": "50"}).drawing
    photo = wide.photos[name]
    assert (photo.width, photo.stretch, photo.at) == (pytest.approx(240), pytest.approx(0.5), pytest.approx((45, 0)))
    curves = trace(picture(), photo).curves
    places = np.concatenate([curve.at(np.array([0.0, 0.5])) for curve in curves])
    assert np.ptp(places, axis=0) == pytest.approx([180, 50], abs=0.5)


def test_what_shows_no_outline_is_refused_in_words() -> None:
    plain = io.BytesIO()
    Image.new("RGB", (300, 200), GROUND).save(plain, "PNG")
    with pytest.raises(SuppleError, match="Nothing stands off"):
        trace(plain.getvalue(), kept(pixels=(300, 200)))
    half = Image.new("RGB", (300, 200), GROUND)
    ImageDraw.Draw(half).rectangle((-10, 60, 310, 140), fill=PART)
    across = io.BytesIO()
    half.save(across, "PNG")
    with pytest.raises(SuppleError, match="No closed outline"):
        trace(across.getvalue(), kept(pixels=(300, 200)))
