"""What a worker can be asked to do. The work itself is in `workers.verbs`, which is loaded only where it is done."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from supplecast.wire import options, results

A = TypeVar("A")
R = TypeVar("R")


@dataclass(frozen=True)
class Verb(Generic[A, R]):
    """A verb with what it is asked and what it answers. What is only advice runs `aside` and gives way to builds; `deadline` is
    in seconds, where it may take longer than a build.
    """

    name: str
    options: type[A]
    result: type[R]
    aside: bool = False
    deadline: float | None = None


BUILD = Verb("build", options.Build, results.BuildResult)
SHELVE = Verb("shelve", options.Nothing, results.Shelved)
REFER = Verb("refer", options.Refer, results.References)
MEASURE = Verb("measure", options.Measure, results.Measured)
UNITS = Verb("units", options.Units, results.UnitChange)
TAKE = Verb("take", options.Take, results.TakenCurves)
ADVISE = Verb("advise", options.AtStep, results.AdviceResult, aside=True)
FIND_PLACES = Verb("find places", options.AtStep, results.PlacesResult, aside=True)
GAUGES = Verb("gauges", options.Nothing, results.Gauges, aside=True)
PULLS = Verb("pulls", options.Nothing, results.Pulls, aside=True)
REPORT = Verb("report", options.Report, results.ReportResult, aside=True, deadline=180)
SECTION = Verb("section", options.Section, results.Section, aside=True)
SECTION_FILE = Verb("section file", options.SectionFile, results.WrittenFile)
COMPARE = Verb("compare", options.Compare, results.Comparison, aside=True, deadline=180)
EXPORT = Verb("export", options.Export, results.WrittenFile, deadline=180)
PICTURE = Verb("picture", options.Draw, results.Picture)
CHECK_FILE = Verb("check file", options.ReadFile, results.FileBodies)
TRACE_PHOTO = Verb("trace photo", options.TracePhoto, results.OutlineCurves, deadline=60)
READ_OUTLINE = Verb("read outline", options.ReadFile, results.OutlineCurves, deadline=30)

VERBS: tuple[Verb[Any, Any], ...] = tuple(value for value in list(globals().values()) if isinstance(value, Verb))
"""All of them."""
