"""How the steps of a build fared and what bodies it made, as rows of a report."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from supplecast.document.state import Flag, Handle, Outcome, Reading, Travel
from supplecast.geometry import Vec
from supplecast.hints import Hint


@dataclass(frozen=True)
class StepReport:
    """How a step fared; `message` holds the hint too, `culprits` are references to faces or edges at fault."""

    id: str
    type: str
    status: str
    field: str
    message: str
    notes: Sequence[str]
    readings: Sequence[Reading]
    flags: Sequence[Flag]
    culprits: Sequence[Mapping[str, Any]]
    sized: bool
    figures: Mapping[str, float]
    ms: float

    @classmethod
    def of(cls, outcome: Outcome, kind: str, **more: Any) -> StepReport:
        return cls(
            id=outcome.step,
            type=kind,
            status=outcome.status,
            field=outcome.field,
            message=" ".join(words for words in (outcome.message, outcome.hint) if words),
            notes=outcome.notes,
            readings=outcome.readings,
            flags=outcome.flags,
            culprits=outcome.culprits,
            sized=outcome.sized,
            figures=outcome.figures,
            ms=round(outcome.ms, 1),
            **more,
        )


@dataclass(frozen=True)
class BuiltStep(StepReport):
    """How a step fared, for the sheet: its fault's `words` and `hint` apart, hints on it, what can be dragged in the view, the
    way a body goes with it, and whether it was `reused`.
    """

    hint: str
    hints: Sequence[Hint]
    words: str
    handles: Sequence[Handle]
    offers: Sequence[tuple[str, str]]
    travel: Travel | None
    reused: bool

    @classmethod
    def with_hints(cls, outcome: Outcome, kind: str, hints: Sequence[Hint]) -> BuiltStep:
        step = cls.of(
            outcome,
            kind,
            hint=outcome.hint,
            hints=hints,
            words=outcome.message,
            handles=outcome.handles,
            offers=outcome.offers,
            travel=outcome.travel,
            reused=outcome.reused,
        )
        assert isinstance(step, BuiltStep)
        return step


@dataclass(frozen=True)
class Box:
    """Axis-parallel box, mm."""

    min: Vec
    max: Vec


@dataclass(frozen=True)
class BodyReport:
    """A body with its exact measures."""

    id: str
    name: str
    role: str
    volume_mm3: float
    area_mm2: float
    centroid_mm: Vec
    second_mm5: tuple[Vec, Vec, Vec]
    bbox_mm: Box
    solids: int
    faces: int
    valid: bool


@dataclass(frozen=True)
class DocumentReport:
    """What a document was built to; lengths in mm, areas mm², volumes mm³."""

    document: str
    name: str
    kind: str
    ok: bool
    steps: Sequence[StepReport]
    bodies: Sequence[BodyReport]
