"""Bodies of a built document as files, named sensibly."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import get_args

from supplecast import kernel
from supplecast.document.state import Entry
from supplecast.errors import ExchangeError
from supplecast.exchange.triangles import ROLE_COLOURS, Part, write_3mf, write_glb, write_stl
from supplecast.wire.options import Format

FORMATS: tuple[Format, ...] = get_args(Format)
MEDIA = {"step": "model/step", "stl": "model/stl", "3mf": "model/3mf", "glb": "model/gltf-binary"}
FINEST = 0.001


@dataclass(frozen=True)
class Tolerance:
    """How far triangles may leave the surface in mm, and the angle between neighbouring ones in rad."""

    deflection: float = 0.02
    angle: float = 0.2

    def __post_init__(self) -> None:
        if not FINEST <= self.deflection <= 5:
            raise ExchangeError(f"A tolerance of {self.deflection:g} mm is out of range.", f"Type one from {FINEST:g} to 5 mm.")


def file_name(*words: str, extension: str) -> str:
    """A file name that every system takes: plain letters, digits, - and _."""
    text = unicodedata.normalize("NFKD", " ".join(w for w in words if w)).encode("ascii", "ignore").decode()
    text = re.sub(r"[^A-Za-z0-9]+", "-", text).strip("-").lower()[:100]
    return f"{text or 'body'}.{extension}"


def writable(entries: Iterable[Entry], format: Format) -> list[Entry]:
    """Those bodies that a format can hold: all but STEP hold closed triangles, so no surfaces."""
    return [entry for entry in entries if format == "step" or entry.role != "surface"]


def write(
    entries: Sequence[Entry], format: Format, tolerance: Tolerance | None = None, colours: Mapping[str, str] | None = None
) -> bytes:
    """One file that holds those of the given bodies that it can; `colours` are those given by hand, by body."""
    if not entries:
        raise ExchangeError("There is no body to write.", "Pick at least one body.")
    entries = writable(entries, format)
    if not entries:
        raise ExchangeError("Surfaces can only be written as STEP.", "Choose STEP, or thicken them first.")
    if format == "step":
        tints = [(colours or {}).get(entry.id) or ROLE_COLOURS[entry.role] for entry in entries]
        return kernel.step_files.write_step([(entry.name, entry.body.solid) for entry in entries], tints)
    tolerance = tolerance or Tolerance()
    parts = [
        Part(
            entry.name,
            entry.role,
            kernel.mesh.tessellate(entry.body.solid, tolerance.deflection, tolerance.angle),
            (colours or {}).get(entry.id, ""),
        )
        for entry in entries
    ]
    writers = {"stl": write_stl, "3mf": write_3mf, "glb": write_glb}
    return writers[format](parts)
