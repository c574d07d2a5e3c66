"""Photos for tracing: what kind of picture a file is, and how many pixels it has, from its own header."""

from __future__ import annotations

import struct

from supplecast.errors import SuppleError

_LARGEST = 24 * 2**20
_MOST_PIXELS = 100_000_000


def read_photo(content: bytes) -> tuple[str, int, int]:
    """Media type, width and height in pixels. SuppleError for what is no PNG or JPEG, or too large."""
    if len(content) > _LARGEST:
        raise SuppleError("The photo is larger than 24 MB.", "Save it smaller.")
    found = _png(content) or _jpeg(content)
    if found is None:
        raise SuppleError("The file is neither a PNG nor a JPEG picture.", "Save it as PNG or JPEG.")
    kind, width, height = found
    if not (width > 0 and height > 0 and width * height <= _MOST_PIXELS):
        raise SuppleError(f"The photo has {width} × {height} pixels.", "Save it with at most 100 million.")
    return kind, width, height


def _png(content: bytes) -> tuple[str, int, int] | None:
    if not content.startswith(b"\x89PNG\r\n\x1a\n") or content[12:16] != b"IHDR" or len(content) < 45:
        return None
    width, height = struct.unpack(">II", content[16:24])
    return "image/png", width, height


def _jpeg(content: bytes) -> tuple[str, int, int] | None:
    """Walks the segments to the frame header (ITU-T T.81, B.2.2), which holds the size."""
    if not content.startswith(b"\xff\xd8\xff"):
        return None
    at = 2
    while at + 9 < len(content):
        if content[at] != 0xFF:
            return None
        marker = content[at + 1]
        if marker == 0xFF or 0xD0 <= marker <= 0xD8:
            at += 1 if marker == 0xFF else 2
            continue
        (length,) = struct.unpack(">H", content[at + 2 : at + 4])
        if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
            height, width = struct.unpack(">HH", content[at + 5 : at + 9])
            return "image/jpeg", width, height
        at += 2 + length
    return None
