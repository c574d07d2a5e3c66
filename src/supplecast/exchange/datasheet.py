"""What the report of a part says: pictures, gauges, what to look at, and its build sheet in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.document.model import Document
from supplecast.document.parts_list import Item
from supplecast.document.surface_list import SurfaceMark
from supplecast.molding.stack_drawing import StackSection
from supplecast.wire.results import ReportResult
from supplecast.wording import show

_PLACES_A_GAUGE = 5


@dataclass(frozen=True)
class Reading:
    """A gauge as the report prints it."""

    name: str
    value: str
    verdict: str
    state: str


@dataclass(frozen=True)
class Datasheet:
    """All that a report says. `facts` are pairs of a name and words; `pictures` PNGs with their captions; of a tool also its
    parts list and the section through its stack; `surfaces` are what the toolmaker does to them.
    """

    title: str
    about: str
    readings: Sequence[Reading]
    places: Sequence[str]
    facts: Sequence[tuple[str, str]]
    steps: Sequence[str]
    pictures: Sequence[tuple[str, bytes]]
    items: Sequence[Item] = ()
    stack: StackSection | None = None
    surfaces: Sequence[SurfaceMark] = ()


def datasheet(
    report: ReportResult, document: Document, revision: int, steps: Sequence[str], pictures: Sequence[tuple[str, bytes]]
) -> Datasheet:
    """The report of a revision of a document from what was found of its shape; `steps` are its build sheet in words."""
    gauges = report.gauges
    doubted = [gauge for gauge in gauges if gauge.state in ("fault", "doubt")]
    worst = [(gauge, offender) for gauge in doubted for offender in gauge.offenders[:_PLACES_A_GAUGE]]
    places = [f"{g.name}: {o.words} at ({', '.join(show(c, 1) for c in o.place)})" for g, o in worst]
    more = [(gauge, len(gauge.offenders) - _PLACES_A_GAUGE) for gauge in doubted]
    places += [f"{gauge.name}: {count} more places" for gauge, count in more if count > 0]
    places = [*report.cautions, *places]
    size = " × ".join(show(s, 2) for s in report.size)
    own = f" ({document.grade.source})" if document.grade and document.grade.source else ""
    if report.failed:
        places.insert(0, f"The document does not build wholly: {report.failed[0]}")
    return Datasheet(
        title=document.name,
        about=f"{size} mm · {document.resin}{own} · revision {revision} · {len(document.steps)} steps",
        readings=[Reading(g.name, f"{g.value} {g.unit}".strip(), g.verdict, g.state) for g in gauges],
        places=places,
        facts=[(figure.name, figure.words) for gauge in gauges for figure in gauge.figures],
        steps=steps,
        pictures=pictures,
        items=report.items,
        stack=report.stack,
        surfaces=report.surfaces,
    )
