"""Looking at a document: picks, measures, gauges, sections, comparisons, advice. All of it is worked out by jobs."""

from __future__ import annotations

from typing import TypeVar

from supplecast.document.edits import apply
from supplecast.document.model import Document
from supplecast.store.library import Revision
from supplecast.web import context
from supplecast.web.answers import GaugesStarted, Started
from supplecast.web.requests import (
    AdviceRequest,
    CompareRequest,
    GaugesRequest,
    MeasuresRequest,
    PlacesRequest,
    ReferencesRequest,
    SectionsRequest,
    UnitsRequest,
)
from supplecast.web.routing import api
from supplecast.wire import comparisons, options, results
from supplecast.wire.task import Task
from supplecast.wire.verbs import (
    ADVISE,
    COMPARE,
    FIND_PLACES,
    GAUGES,
    MEASURE,
    PULLS,
    REFER,
    REPORT,
    SECTION,
    SECTION_FILE,
    UNITS,
    Verb,
)

A = TypeVar("A")
R = TypeVar("R")


def _start(verb: Verb[A, R], document_id: str, task: Task, asked: A) -> Started[R]:
    return Started(context.engine().submit(verb, document_id, task, asked).id)


def _as_far_as(head: Revision, upto: str | None) -> Task:
    """The head up to and including a step, if it has that."""
    known = any(step.id == upto for step in head.document.steps)
    return context.task(head.document, upto=upto if known else None)


@api.post("/documents/<document_id>/references")
def references(document_id: str, asked: ReferencesRequest) -> Started[results.References]:
    """Lasting references for faces and edges picked by number."""
    task = context.task(context.library().head(document_id).document, upto=asked.upto, before=asked.before)
    things = [picked.thing for picked in asked.picked]
    return _start(REFER, document_id, task, options.Refer(things, asked.spots, asked.loops, asked.rules))


@api.post("/documents/<document_id>/measures")
def measures(document_id: str, asked: MeasuresRequest) -> Started[results.Measured]:
    """Start measuring one or two things picked by number."""
    task = context.task(context.library().head(document_id).document, upto=asked.upto)
    return _start(MEASURE, document_id, task, options.Measure([picked.thing for picked in asked.picked]))


@api.post("/documents/<document_id>/gauges")
def gauges(document_id: str, asked: GaugesRequest) -> GaugesStarted[results.Gauges]:
    """Start judging the head, up to and including a step: its gauges and the maps behind them."""
    head = context.library().head(document_id)
    job = context.engine().submit(GAUGES, document_id, _as_far_as(head, asked.upto), options.Judge(asked.every))
    return GaugesStarted(job.id, head.number)


@api.post("/documents/<document_id>/pulls")
def pulls(document_id: str) -> Started[results.Pulls]:
    """Start finding out which pull would hide least of the part."""
    return _start(PULLS, document_id, context.task(context.library().head(document_id).document), options.Nothing())


@api.post("/documents/<document_id>/compare")
def compare(document_id: str, asked: CompareRequest) -> Started[comparisons.Comparison]:
    """Start comparing a document, or a `first` revision of it, with another one, or with a `second` revision."""
    first, second = _at(document_id, asked.first), _at(asked.other or document_id, asked.second)
    return _start(COMPARE, document_id, context.task(first), options.Compare(context.task(second)))


def _at(document_id: str, number: int | None) -> Document:
    """A document as it is, or as it was at a revision."""
    library = context.library()
    return library.head(document_id).document if number is None else library.revision(document_id, number)


@api.post("/documents/<document_id>/report")
def report(document_id: str) -> Started[results.ReportResult]:
    """Start the report of the head: its gauges, and pictures from four sides."""
    head = context.library().head(document_id)
    return _start(REPORT, document_id, context.task(head.document), options.Report(head.number))


@api.post("/documents/<document_id>/sections")
def sections(document_id: str, asked: SectionsRequest) -> Started[results.Section] | Started[results.WrittenFile]:
    """Start cutting the bodies by a plane: their outlines there, the wall at a `spot`, or a file of a `format`."""
    task = _as_far_as(context.library().head(document_id), asked.upto)
    plane = asked.plane.origin, asked.plane.normal
    if asked.format is not None:
        return _start(SECTION_FILE, document_id, task, options.SectionFile(*plane, asked.format, asked.hidden))
    return _start(SECTION, document_id, task, options.Section(*plane, asked.hidden, asked.spot))


@api.post("/documents/<document_id>/units")
def units(document_id: str, asked: UnitsRequest) -> Started[results.UnitChange]:
    """Start finding out what another unit would make of the document: the same size, or the same numbers."""
    task = context.task(context.library().head(document_id).document)
    return _start(UNITS, document_id, task, options.Units(asked.unit))


@api.post("/documents/<document_id>/advice")
def advice(document_id: str, asked: AdviceRequest) -> Started[results.AdviceResult]:
    """Start finding the largest value that fits where a step failed for a size."""
    document = context.library().head(document_id).document
    if asked.edit is not None:
        document, _ = apply(document, asked.edit, context.parts_beside(document))
    return _start(ADVISE, document_id, context.task(document), options.AtStep(document.step(asked.step).id))


@api.post("/documents/<document_id>/places")
def places(document_id: str, asked: PlacesRequest) -> Started[results.PlacesResult]:
    """Start finding where in the sheet a step may stand."""
    document = context.library().head(document_id).document
    return _start(FIND_PLACES, document_id, context.task(document), options.AtStep(document.step(asked.step).id))
