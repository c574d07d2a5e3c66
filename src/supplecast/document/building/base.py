"""What a builder holds, how it tells faults, and how it calls the kernel."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, NoReturn, ParamSpec, TypeVar

from supplecast.document.builder import MaterialKey, Outside
from supplecast.document.coat import Coat
from supplecast.document.keys import Read
from supplecast.document.mend import bodies_at_fault, culprits
from supplecast.document.state import Datum, Effect, Entry, Flag, Handle, Reading, SketchEntry, State, Travel
from supplecast.document.step import Step
from supplecast.errors import KernelError, SketchError, StepError
from supplecast.geometry import Vec
from supplecast.naming import Body, named, reference_face
from supplecast.quantities import Scope

if TYPE_CHECKING:
    from supplecast.kernel.shapes.history import Made

P = ParamSpec("P")
T = TypeVar("T")


class Base:
    """Collects what a step reads, writes, notes and flags."""

    def __init__(
        self,
        step: Step,
        step_key: str,
        state: State,
        scope: Scope,
        resin: MaterialKey,
        outside: Outside,
        invalidated: Mapping[str, str],
        steps: Sequence[Step],
    ) -> None:
        self.step = step
        self.steps = steps
        self.state = state
        self.scope = scope
        self.outside = outside
        self.invalidated = invalidated
        self.reads: list[Read] = []
        self.targets: list[str] = []
        self.notes: list[str] = []
        self.readings: list[Reading] = []
        self.flags: list[Flag] = []
        self.figures: dict[str, float] = {}
        self.handles: list[Handle] = []
        self.offers: tuple[tuple[str, str], ...] = ()
        self.travel: Travel | None = None
        self.drawn_lines: tuple[tuple[Vec, ...], ...] = ()
        self._resin = resin
        self._step_key = step_key
        self._bodies: dict[str, Entry] = {}
        self._gone: list[str] = []
        self._sketches: list[SketchEntry] = []
        self._datums: list[Datum] = []
        self._effect: Effect | None = None
        self._coats: list[Coat] = []
        self._brought: list[Entry] = []  # bodies of other documents that the step has asked for

    @property
    def step_id(self) -> str:
        return self.step.id

    @property
    def order(self) -> Sequence[tuple[str, str]]:
        return [(step.id, step.type) for step in self.steps]

    def fail(self, field: str, message: str, hint: str = "", lit: tuple[Entry, Sequence[int]] | None = None) -> NoReturn:
        entry, faces = lit or (None, ())
        references = [reference_face(entry.body, face, entry.id) for face in faces] if entry else []
        shown = tuple(pick.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for pick in references)
        raise StepError(field, message, hint, culprits=shown)

    def kernel(self, field: str, verb: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        try:
            return verb(*args, **kwargs)
        except KernelError as fault:
            words = " ".join([fault.message, *bodies_at_fault(self.state, fault, args)])
            blamed = culprits(self.state, fault, args)
            at_fault = fault.field if fault.field in type(self.step).model_fields else field
            raise StepError(at_fault, words, fault.hint, culprits=blamed, sized=fault.sized) from fault
        except SketchError as fault:
            raise StepError(field, fault.message, fault.hint) from fault

    def named(self, made: Made, *inputs: Body, sketch: SketchEntry | None = None) -> Body:
        return named(made, self.step.id, inputs, sketch.lineage if sketch else None)

    def _note_read(self, kind: str, name: str, key: str) -> None:
        read = (kind, name, key)
        if read not in self.reads:
            self.reads.append(read)
