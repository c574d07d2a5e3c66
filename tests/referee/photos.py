"""Pictures made for tests."""

from __future__ import annotations

import io

from PIL import Image


def png(width: int, height: int) -> bytes:
    return photo(width, height, "PNG")


def photo(width: int, height: int, kind: str) -> bytes:
    stream = io.BytesIO()
    Image.new("L", (width, height), 128).save(stream, kind)
    return stream.getvalue()
