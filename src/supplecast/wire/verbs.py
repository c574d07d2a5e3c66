"""What a worker can be asked to do. The work itself is in `workers.verbs`, which is loaded only where it is done."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

from supplecast.wire import comparisons, options, results

A = TypeVar("A")
R = TypeVar("R")
Room = Literal["own", "aside", "files"]


@dataclass(frozen=True)
class Verb(Generic[A, R]):
    """A verb with what it is asked and what it answers, and the room where it is done: what somebody waits for with the hand on
    the mouse with the document's own shapes, before all that is `later`; advice `aside`, giving way to newer builds; files by
    themselves, so that no build waits for them. `deadline` is in seconds, where it may take longer than a build.
    """

    name: str
    options: type[A]
    result: type[R]
    room: Room = "own"
    later: bool = False
    deadline: float | None = None

    @property
    def advice(self) -> bool:
        """Whether it is pointless once the document has changed."""
        return self.room == "aside"


BUILD = Verb("build", options.Build, results.BuildResult)
SHELVE = Verb("shelve", options.Nothing, results.Shelved, later=True)
REFER = Verb("refer", options.Refer, results.References)
MEASURE = Verb("measure", options.Measure, results.Measured)
IN_PLACE = Verb("in place", options.InPlace, results.Placed)
UNITS = Verb("units", options.Units, results.UnitChange)
TAKE = Verb("take", options.Take, results.TakenCurves)
ADVISE = Verb("advise", options.AtStep, results.AdviceResult, room="aside")
FIND_PLACES = Verb("find places", options.AtStep, results.PlacesResult, room="aside")
GAUGES = Verb("gauges", options.Judge, results.Gauges, room="aside")
PULLS = Verb("pulls", options.Nothing, results.Pulls, room="aside")
REPORT = Verb("report", options.Report, results.ReportResult, room="aside", deadline=180)
SECTION = Verb("section", options.Section, results.Section, room="aside")
SECTION_FILE = Verb("section file", options.SectionFile, results.WrittenFile, room="files")
COMPARE = Verb("compare", options.Compare, comparisons.Comparison, room="aside", deadline=180)
EXPORT = Verb("export", options.Export, results.WrittenFile, room="files", deadline=180)
SHOOT = Verb("shoot", options.Shoot, results.WrittenFile, room="files", deadline=240)
PICTURE = Verb("picture", options.Draw, results.Picture, later=True)
CHECK_FILE = Verb("check file", options.ReadFile, results.FileBodies, room="files")
CHECK_PICTURE = Verb("check picture", options.ReadFile, results.PictureFacts, room="files")
TRACE_PHOTO = Verb("trace photo", options.TracePhoto, results.OutlineCurves, room="files", deadline=60)
READ_OUTLINE = Verb("read outline", options.ReadFile, results.OutlineCurves, room="files", deadline=30)

VERBS: tuple[Verb[Any, Any], ...] = tuple(value for value in list(globals().values()) if isinstance(value, Verb))
"""All of them."""
