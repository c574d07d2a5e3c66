"""The parts list of a tool as comma-separated values (RFC 4180), in UTF-8 with its mark, which spreadsheets look for."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from supplecast.document.parts_list import Item

_HEADS = ("No.", "Count", "What", "Size mm", "Material", "By")
_FORMULAE = ("=", "+", "-", "@")  # with which a spreadsheet would take a name for one


def write_parts_csv(items: Iterable[Item]) -> bytes:
    """A row for each item, under their heads."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(_HEADS)
    for item in items:
        words = (item.what, item.size, item.material, item.norm)
        writer.writerow([item.number, item.count, *(f"'{w}" if w.startswith(_FORMULAE) else w for w in words)])
    return text.getvalue().encode("utf-8-sig")
