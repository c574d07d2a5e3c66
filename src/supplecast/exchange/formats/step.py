"""STEP: exact solids."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.exchange.formats import FileFormat, Tolerance
from supplecast.exchange.wardrobe import Wardrobe


def _write(entries: Sequence[Entry], _: Tolerance, wardrobe: Wardrobe) -> bytes:
    worn = [wardrobe.looks(entry) for entry in entries]
    tints = [(looks[0].colour, looks[0].cover) for looks, _ in worn]
    faces = [{face: (looks[k].colour, looks[k].cover) for face, k in enumerate(of) if k} for looks, of in worn]
    bodies = [(entry.name, entry.body.solid) for entry in entries]
    return kernel.step_files.write_step(bodies, tints, [entry.group for entry in entries], faces)


FORMAT = FileFormat("step", "model/step", "exact solids with names and colours, AP242", 10, _write, exact=True)
