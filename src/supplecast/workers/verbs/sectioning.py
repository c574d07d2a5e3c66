"""Sections: the exact outlines in which a plane cuts the bodies, the wall at a place of them, and files of them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from supplecast import kernel
from supplecast.curves import Curve2
from supplecast.document.model import Document
from supplecast.document.state import Entry
from supplecast.errors import KernelError, SuppleError
from supplecast.exchange import outlines
from supplecast.exchange.handoff import file_name
from supplecast.geometry import Frame, Point2, vec
from supplecast.molding.section import across
from supplecast.wire import options
from supplecast.wire.results import CutBody, CutWall, Section, WrittenFile
from supplecast.wire.task import Task
from supplecast.wire.verbs import SECTION, SECTION_FILE
from supplecast.workers.opened import built_of
from supplecast.workers.registry import does
from supplecast.workers.verbs.files import written

_CHORDS = 40


@does(SECTION)
def section(task: Task, asked: options.Section) -> Section:
    """The outlines of the cut as lines in space, body by body; with a `spot`, the wall across the cut there."""
    frame = Frame.lying(asked.origin, asked.normal)
    _, cuts = _cut(task, frame, asked.hidden)
    bodies = []
    for entry, curves in cuts:
        lines = [[vec(p) for p in frame.space(curve.sampled(_CHORDS))] for curve in curves]
        bodies.append(CutBody(entry.id, entry.name, lines))
    return Section(bodies, _wall(frame, cuts, frame.flat(asked.spot)) if asked.spot else None)


@does(SECTION_FILE)
def section_file(task: Task, asked: options.SectionFile) -> WrittenFile:
    """The outlines of the cut as a DXF or SVG file, in mm, upright and as seen against the plane's normal."""
    document, cuts = _cut(task, Frame.seen(asked.origin, asked.normal), asked.hidden)
    curves = [curve for _, outline in cuts for curve in outline]
    content = outlines.write_dxf(curves) if asked.format == "dxf" else outlines.write_svg(curves)
    return written(task, content, asked.format, file_name(document.name, "section", extension=asked.format))


def _cut(task: Task, frame: Frame, out_of_sight: Sequence[str]) -> tuple[Document, list[tuple[Entry, list[Curve2]]]]:
    document, built = built_of(task)
    sections = []
    for entry in built.state.bodies.values():
        if entry.id in out_of_sight or entry.role == "surface":
            continue
        try:
            sections.append((entry, kernel.flatten.section(entry.body.solid, frame)))
        except KernelError:
            continue  # the plane misses this one
    if not sections:
        raise SuppleError("The plane cuts no body.", "Move it into the part.")
    return document, sections


def _wall(frame: Frame, cuts: list[tuple[Entry, list[Curve2]]], spot: Point2) -> CutWall | None:
    for entry, curves in cuts:
        ends = across(curves, spot)
        if ends is not None:
            a, b = ends
            return CutWall(entry.name, (frame.point(a), frame.point(b)), math.dist(a, b))
    return None
