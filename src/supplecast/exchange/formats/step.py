"""STEP: exact solids."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.exchange.formats import FileFormat, Tolerance
from supplecast.exchange.triangles import ROLE_COLOURS


def _write(entries: Sequence[Entry], _: Tolerance, colours: Mapping[str, str]) -> bytes:
    tints = [colours.get(entry.id) or ROLE_COLOURS[entry.role] for entry in entries]
    return kernel.step_files.write_step(
        [(entry.name, entry.body.solid) for entry in entries], tints, [entry.group for entry in entries]
    )


FORMAT = FileFormat("step", "model/step", "exact solids with names, AP242", 10, _write, exact=True)
