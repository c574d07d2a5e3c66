"""Photos for tracing: what kind of picture a file is, and how many pixels it has, from its own header."""

from __future__ import annotations

import io

from PIL import ExifTags, Image, UnidentifiedImageError

from supplecast.errors import SuppleError

_LARGEST = 24 * 2**20
_ON_ITS_SIDE = 5  # of the orientations a camera notes: from here on the picture is shown turned by a quarter
_MOST_PIXELS = 100_000_000
_HEAD = 2**20
"""What says how large a picture is stands in its first bytes: a file that hides it is not searched through."""
_TOO_MANY = "Save it with at most 100 million."


def media_type(content: bytes) -> str:
    """Of a photo that was read before."""
    return "image/png" if content.startswith(b"\x89PNG") else "image/jpeg"


def read_photo(content: bytes) -> tuple[str, int, int]:
    """Media type, width and height in pixels. SuppleError for what is no PNG or JPEG, or too large."""
    if len(content) > _LARGEST:
        raise SuppleError("The photo is larger than 24 MB.", "Save it smaller.")
    try:
        with Image.open(io.BytesIO(content[:_HEAD]), formats=("PNG", "JPEG")) as image:
            kind, (width, height) = image.get_format_mimetype(), image.size
            if image.getexif().get(ExifTags.Base.Orientation, 1) >= _ON_ITS_SIDE:
                width, height = height, width
    except Image.DecompressionBombError as fault:
        raise SuppleError("The photo has too many pixels.", _TOO_MANY) from fault
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as fault:
        raise SuppleError("The file is neither a PNG nor a JPEG picture.", "Save it as PNG or JPEG.") from fault
    if not (kind and width > 0 and height > 0 and width * height <= _MOST_PIXELS):
        raise SuppleError(f"The photo has {width} × {height} pixels.", _TOO_MANY)
    return kind, width, height
