"""Advice: what fits where a step failed, where a step may stand, what another unit would make of the model."""

from __future__ import annotations

from supplecast import kernel
from supplecast.document.advise import largest
from supplecast.document.model import Document
from supplecast.document.order import places
from supplecast.document.project import Project
from supplecast.document.rebuild import rebuild
from supplecast.document.units import relabelled, renumbered, with_units
from supplecast.expressions import LENGTH_UNITS
from supplecast.molding.plausible import size_warning
from supplecast.wire import options
from supplecast.wire.results import AdviceResult, InUnit, PlacesResult, UnitChange
from supplecast.wire.task import Task
from supplecast.wire.verbs import ADVISE, FIND_PLACES, UNITS
from supplecast.wording import show
from supplecast.workers.opened import MEMORIES, opened
from supplecast.workers.registry import does


@does(ADVISE)
def advise(task: Task, asked: options.AtStep) -> AdviceResult:
    """What would fit where a step failed for a size."""
    document, project = opened(task)
    built = project.build(document.id)
    return AdviceResult(largest(document, built.outcome(asked.step), MEMORIES[document.id], project))


@does(FIND_PLACES)
def find_places(task: Task, asked: options.AtStep) -> PlacesResult:
    """Where in the sheet a step may stand, and why not elsewhere."""
    document, project = opened(task)
    project.build(document.id)
    return PlacesResult(places(document, asked.step, MEMORIES[document.id], project))


@does(UNITS)
def units(task: Task, asked: options.Units) -> UnitChange:
    """What the ways of changing the unit would make of the model: its box, and a warning where that looks wrong."""
    document, project = opened(task)
    held = with_units(document)
    numbers = _in_unit(renumbered(document, asked.unit), project)
    every = _in_unit(renumbered(document, asked.unit, all_of_them=True), project) if held else numbers
    return UnitChange(_in_unit(relabelled(document, asked.unit), project), numbers, every, held)


def _in_unit(document: Document, project: Project) -> InUnit:
    built = rebuild(document, outside=project)
    boxes = [kernel.measure.box(entry.body.solid) for entry in built.state.bodies.values()]
    size = [max(b.high[i] for b in boxes) - min(b.low[i] for b in boxes) for i in range(3)] if boxes else []
    warning = size_warning(max(size), document.material) if size else ""
    return InUnit([show(s / LENGTH_UNITS[document.unit], 4) for s in size], warning, built.ok)
