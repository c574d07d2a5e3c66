"""Sections in a worker: the exact outlines in which a plane cuts the bodies, the wall at a place of them, and files of them."""

from __future__ import annotations

import math
import secrets
from pathlib import Path
from typing import Any

from supplecast import kernel
from supplecast.curves import Curve2
from supplecast.document.state import Entry
from supplecast.errors import KernelError, SuppleError
from supplecast.exchange import outlines
from supplecast.exchange.handoff import file_name
from supplecast.geometry import Frame, Point2, vec
from supplecast.molding.section import across
from supplecast.workers import jobs
from supplecast.workers.jobs import Task

_CHORDS = 40


def section(task: Task) -> dict[str, Any]:
    """The outlines of the cut as lines in space, body by body; with a `spot`, the wall across the cut there."""
    _, frame, cuts = _cut(task)
    told = []
    for entry, curves in cuts:
        lines = [frame.space(curve.sampled(_CHORDS)).tolist() for curve in curves]
        told.append({"body": entry.id, "name": entry.name, "lines": lines})
    spot = task.options.get("spot")
    return {"bodies": told, "wall": _wall(frame, cuts, frame.flat(vec(spot))) if spot else None}


def section_file(task: Task) -> dict[str, Any]:
    """The outlines of the cut as a DXF or SVG file in the blob directory, in mm."""
    document, _, cuts = _cut(task)
    format = str(task.options["format"])
    curves = [curve for _, found in cuts for curve in found]
    content = outlines.write_dxf(curves) if format == "dxf" else outlines.write_svg(curves)
    name = f"{secrets.token_hex(12)}.{format}"
    Path(task.blobs, name).write_bytes(content)
    return {"blob": name, "name": file_name(document.name, "section", extension=format), "bytes": len(content)}


def _cut(task: Task) -> tuple[Any, Frame, list[tuple[Entry, list[Curve2]]]]:
    document, built = jobs.built_of(task)
    plane = task.options["plane"]
    frame = Frame.lying(vec(plane["origin"]), vec(plane["normal"]))
    hidden = {body for body, look in document.looks.items() if look.hidden} | set(task.options.get("hidden", ()))
    found = []
    for entry in built.state.bodies.values():
        if entry.id in hidden or entry.role == "surface":
            continue
        try:
            found.append((entry, kernel.flatten.section(entry.body.solid, frame)))
        except KernelError:
            continue  # the plane misses this one
    if not found:
        raise SuppleError("The plane cuts no body.", "Move it into the part.")
    return document, frame, found


def _wall(frame: Frame, cuts: list[tuple[Entry, list[Curve2]]], spot: Point2) -> dict[str, Any] | None:
    for entry, curves in cuts:
        ends = across(curves, spot)
        if ends is not None:
            a, b = ends
            return {"body": entry.name, "ends": [frame.point(a), frame.point(b)], "wall": math.dist(a, b)}
    return None
