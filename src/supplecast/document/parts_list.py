"""The parts list of a tool: what its bodies are ordered as, alike ones together."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from supplecast import kernel
from supplecast.document.state import STEEL, Entry
from supplecast.tooling.stock import Stock
from supplecast.wording import show

_ORDER = ("plate", "ring", "round", "screw")
_OWN = "tool steel"


@dataclass(frozen=True)
class Item:
    """A line of the list: its number, how many there are of what, the size in mm in words, what it is made of, the standard it
    follows; and which bodies they are.
    """

    number: int
    count: int
    what: str
    size: str
    material: str
    norm: str
    bodies: tuple[str, ...]


def parts_list(entries: Iterable[Entry]) -> list[Item]:
    """The steel of a tool: plates and blocks first, then what stands in them; in order of making."""
    alike: dict[Stock, list[Entry]] = {}
    for entry in entries:
        if entry.role in STEEL and entry.is_solid:
            alike.setdefault(entry.stock or _made(entry), []).append(entry)
    rows = sorted(alike.items(), key=lambda row: _ORDER.index(row[0].form))
    return [
        Item(number, len(same), stock.kind, _size(stock), stock.material, stock.norm, tuple(entry.id for entry in same))
        for number, (stock, same) in enumerate(rows, 1)
    ]


def _made(entry: Entry) -> Stock:
    """What is cut from the full for this tool: a block as large as the body."""
    long, wide, thick = sorted(kernel.measure.corner_box(entry.body.solid).size, reverse=True)
    sizes = (round(long, 2), round(wide, 2), round(thick, 2))
    return Stock(re.sub(r" \d+$", "", entry.name), "plate", sizes, _OWN)


def _size(stock: Stock) -> str:
    sizes = [show(size, 2) for size in stock.sizes]
    if stock.form == "screw":
        return f"M{sizes[0]} × {sizes[1]}"
    cut = f", cut to {show(stock.cut, 2)}" if stock.cut is not None and abs(stock.cut - stock.sizes[-1]) > 1e-6 else ""
    if stock.form == "ring":
        return f"Ø{sizes[0]}/{sizes[1]} × {sizes[2]}"
    return ("Ø" if stock.form == "round" else "") + " × ".join(sizes) + cut
