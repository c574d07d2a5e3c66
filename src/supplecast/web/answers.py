"""What the API answers at once. What takes longer is started as a job, whose result is one of `wire.results`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Generic, TypeVar

from pydantic import WithJsonSchema

from supplecast.sketch.inference import Guide
from supplecast.sketch.scene import MovedScene, Scene, Shape, TrialShape
from supplecast.wire.results import BuildResult, Gauges, OnTheWay
from supplecast.wire.task import Progress
from supplecast.wire.verbs import VERBS
from supplecast.workers.engine import Job, State

R = TypeVar("R")
DocumentJson = Annotated[dict[str, Any], WithJsonSchema({"allOf": [{"$ref": "#/components/schemas/Document"}]})]


def _any_result() -> dict[str, Any]:
    names = sorted({verb.result.__name__ for verb in VERBS})
    return {"anyOf": [*({"$ref": f"#/components/schemas/{name}"} for name in names), {"type": "null"}]}


@dataclass(frozen=True)
class Problem:
    """RFC 9457 problem details; `lit` are constraints of a sketch at fault, `drive` says that a size would do as a driven
    one.
    """

    type: str
    status: int
    title: str
    detail: str
    lit: Sequence[str] = ()
    drive: bool = False


@dataclass(frozen=True)
class RevisionAnswer(Generic[R]):
    """A revision that is the newest now, what undo and redo can reach, and the job that builds it, whose result is an R."""

    revision: int
    change: str
    undo: int
    redo: bool
    job: str


@dataclass(frozen=True)
class KeptArt:
    """A picture as a step knows it."""

    file: str
    asset: str


@dataclass(frozen=True)
class ArtAnswer:
    """A picture that has been kept."""

    art: KeptArt


@dataclass(frozen=True)
class InPlaceAnswer:
    """The document of the part."""

    document: str


@dataclass(frozen=True)
class DocumentAnswer:
    """The head of a document."""

    revision: int
    undo: int
    redo: bool
    document: DocumentJson


@dataclass(frozen=True)
class Started(Generic[R]):
    """A job was started; its result is an R."""

    job: str


@dataclass(frozen=True)
class PreviewStarted(Generic[R]):
    """A build that is not kept was started; what the edit changes, in words."""

    job: str
    change: str


@dataclass(frozen=True)
class GaugesStarted(Generic[R]):
    """Judging a revision was started."""

    job: str
    revision: int


@dataclass(frozen=True)
class PictureAnswer(Generic[R]):
    """The blob of a picture that is drawn already, or the job that draws it."""

    job: str | None
    blob: str | None


@dataclass(frozen=True)
class LookAnswer:
    """What was last shown of a document as it is; None where nothing is kept."""

    build: BuildResult | None
    gauges: Gauges | None


@dataclass(frozen=True)
class LessonTask:
    """A task of a lesson: what to do and why, and whether it is done."""

    do: str
    why: str
    done: bool


@dataclass(frozen=True)
class LessonAnswer:
    """How far the lesson of a document is: its tasks, where the next one is done on the screen, as CSS selectors, the edit that
    would do it, and the address of the lessons. `ends` is what is said when all is done; `known` is not before the document is
    built and judged as it is.
    """

    known: bool
    title: str
    tasks: Sequence[LessonTask]
    lights: Sequence[str]
    edit: Mapping[str, Any] | None
    ends: str
    all: str


@dataclass(frozen=True)
class Named:
    name: str


@dataclass(frozen=True)
class NumberedRevision:
    revision: int


@dataclass(frozen=True)
class PastRevision:
    """A revision as the history lists it; `made` in ISO 8601."""

    number: int
    change: str
    made: str
    milestone: str
    is_head: bool
    parent: int | None


@dataclass(frozen=True)
class HistoryAnswer:
    revisions: Sequence[PastRevision]


@dataclass(frozen=True)
class JobAnswer:
    """A job; `at` is the step it is at, or at which it was stopped, `seen` what a build has come to so far."""

    id: str
    kind: str
    state: State
    message: str
    hint: str
    seconds: float
    at: Progress | None
    seen: OnTheWay | None
    result: Annotated[Any, WithJsonSchema(_any_result())]

    @classmethod
    def of(cls, job: Job[Any]) -> JobAnswer:
        return cls(job.id, job.verb.name, job.state, job.message, job.hint, job.seconds, job.progress, job.seen, job.result)


@dataclass(frozen=True)
class DrawingTool:
    """A tool with its clicks in words, the sizes it takes, the click that each may stand for, those that are left to the
    pointer, and whether it goes on after the last click.
    """

    name: str
    family: str
    clicks: Sequence[str]
    sizes: Sequence[str]
    asks: Sequence[int]
    aimed: Sequence[str]
    more: bool


@dataclass(frozen=True)
class SketchAnswer:
    """A sketch as it looks, and the tools to draw with."""

    revision: int
    undo: int
    redo: bool
    name: str
    unit: str
    scene: Scene
    tools: Sequence[DrawingTool]


@dataclass(frozen=True)
class ActsAnswer:
    """What acts gave, in words, and the names of what they made; no scene where a try was refused."""

    revision: int
    undo: int
    redo: bool
    words: str
    made: Sequence[str]
    scene: Scene | None


@dataclass(frozen=True)
class GuessAnswer:
    """What the pointer means, in words and with dotted lines; what would be drawn, how its sizes lie, and what is wrong.
    `takes` are rows of the model's edges to be taken first, each with the name that the pick has for its curve.
    """

    pick: Mapping[str, Any]
    words: str
    guides: Sequence[Guide]
    preview: Sequence[TrialShape]
    measures: Mapping[str, str]
    refusal: str
    takes: Sequence[tuple[int, str]] = ()


@dataclass(frozen=True)
class KeptPhoto:
    """A photo by the SHA-256 of its file, and its size in pixels."""

    asset: str
    name: str
    pixels: tuple[int, int]


@dataclass(frozen=True)
class PhotoAnswer:
    photo: KeptPhoto


@dataclass(frozen=True)
class TrimAnswer:
    """The piece that a trim would take away."""

    piece: Shape


@dataclass(frozen=True)
class DragAnswer:
    """What follows a drag."""

    scene: MovedScene
    radii: Mapping[str, float]
    revision: int
