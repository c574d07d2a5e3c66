"""The parts list of a tool, and what is done to surfaces, as comma-separated values (RFC 4180), in UTF-8 with its mark, which
spreadsheets look for.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from supplecast.document.parts_list import Item
from supplecast.document.surface_list import SurfaceMark

_HEADS = ("No.", "Count", "What", "Size mm", "Material", "By")
_FORMULAE = ("=", "+", "-", "@")  # with which a spreadsheet would take a name for one


def write_parts_csv(items: Iterable[Item]) -> bytes:
    """A row for each item, under their heads."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(_HEADS)
    for item in items:
        writer.writerow([item.number, item.count, *_plain(item.what, item.size, item.material, item.norm)])
    return text.getvalue().encode("utf-8-sig")


def write_surfaces_csv(marks: Iterable[SurfaceMark]) -> bytes:
    """A row for each surface that something is to be done to."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(("What", "Code", "Area mm2", "x mm", "y mm", "z mm", "Part", "Formed by"))
    for one in marks:
        place = [round(c, 3) for c in one.place]
        writer.writerow([*_plain(one.what, one.code), round(one.area, 2), *place, *_plain(one.part, ", ".join(one.formed_by))])
    return text.getvalue().encode("utf-8-sig")


def _plain(*words: str) -> list[str]:
    return [f"'{one}" if one.startswith(_FORMULAE) else one for one in words]
