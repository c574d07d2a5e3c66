"""From document to bodies: a pure function that remembers, step by step.

Each build of a step leaves a trace: the step's own JSON, everything it read with the key it had, and what came of it. A
trace is used again while all of that is unchanged, so that an edit costs only itself and what depends on it, and undoing
it costs nothing.
"""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from supplecast.document.builder import Blocked, MaterialKey, Outside
from supplecast.document.building import RecordingBuilder
from supplecast.document.coat import Coat
from supplecast.document.fields import LinkPick
from supplecast.document.keys import Read, digest, order_key, steps_ahead, value_key
from supplecast.document.model import Document, step_dict
from supplecast.document.state import Delta, Entry, Outcome, State
from supplecast.document.step import Step
from supplecast.errors import DocumentError, StepError, SuppleError
from supplecast.naming.tag import maker

_log = logging.getLogger(__name__)

_TRACES_PER_STEP = 8


@dataclass(frozen=True)
class Trace:
    step_key: str
    reads: tuple[Read, ...]
    delta: Delta
    outcome: Outcome
    targets: tuple[str, ...]

    @cached_property
    def again(self) -> Trace:
        """The same, as told of a step that was not built anew."""
        return replace(self, outcome=replace(self.outcome, reused=True))


@dataclass
class Memory:
    """Traces of one document, newest first, and the last good delta of each step."""

    traces: dict[str, list[Trace]] = field(default_factory=dict)
    good: dict[str, Delta] = field(default_factory=dict)
    keys: dict[int, tuple[Step, str]] = field(default_factory=dict)

    def step_key(self, step: Step) -> str:
        """The key of a step's data, worked out once for each step object."""
        known = self.keys.get(id(step))
        if known is None or known[0] is not step:
            if len(self.keys) > 20_000:
                self.keys.clear()
            known = self.keys[id(step)] = (step, step_key(step))
        return known[1]

    def keep(self, step: str, trace: Trace) -> None:
        kept = self.traces.setdefault(step, [])
        kept.insert(0, trace)
        del kept[_TRACES_PER_STEP:]
        if trace.outcome.status == "ok":
            self.good[step] = trace.delta


@dataclass(frozen=True)
class Built:
    """A rebuilt document: its state, how each step fared, and the trace that each step left or was taken from; `coats` is what
    faces wear, by path, in the order of putting on, that of linked bodies first.
    """

    state: State
    outcomes: tuple[Outcome, ...]
    traces: Mapping[str, Trace]
    coats: Mapping[str, Coat] = field(default_factory=dict)

    @property
    def ok(self) -> bool:
        return all(outcome.status in ("ok", "skipped") for outcome in self.outcomes)

    def outcome(self, step: str) -> Outcome:
        return next(o for o in self.outcomes if o.step == step)


class NoOutside:
    """A document that stands alone: nothing linked, nothing imported."""

    def linked(self, pick: LinkPick) -> Sequence[Entry]:
        raise DocumentError(f"The linked document “{pick.document}” is not at hand.", "Give it along with this one.")

    def linkable(self, pick: LinkPick) -> Sequence[tuple[str, str]]:
        return ()

    def linked_key(self, pick: LinkPick) -> str:
        return "absent"

    def asset(self, digest: str, name: str) -> bytes:
        raise DocumentError(f"The imported file “{name}” is not at hand.", "Import it again.")


def step_key(step: Step) -> str:
    return digest(json.dumps(step_dict(step), sort_keys=True))


Progress = Callable[[int, int, str, str], None]
Seen = Callable[[int, int, State], None]


def rebuild(
    document: Document,
    memory: Memory | None = None,
    *,
    outside: Outside | None = None,
    upto: str | None = None,
    stuck: Mapping[str, str] | None = None,
    progress: Progress | None = None,
    seen: Seen | None = None,
) -> Built:
    """Build a document, or its steps up to and including `upto`. Never raises for a fault inside a step.

    `stuck` names steps that are known to hang or crash, and what to say of them; they are not tried. `progress` is told the
    number of each step that is built anew, how many there are, its label and its id; `seen` the number of each that came
    of it, how many there are, and the state after it.
    """
    memory = memory if memory is not None else Memory()
    run = Run(document, memory, outside or NoOutside(), stuck or {})
    last = len(document.steps) if upto is None else document.position(upto) + 1
    for number, step in enumerate(document.steps[:last], 1):
        if progress:
            run.progress = lambda step, number=number: progress(number, last, step.label, step.id)
        run.step(step)
        if seen and run.anew and run.outcomes[-1].status == "ok":
            seen(number, last, run.state)
    return Built(run.state, tuple(run.outcomes), run.traces, run.state.coats)


class Run:
    """A rebuild under way: the state after the steps so far."""

    def __init__(self, document: Document, memory: Memory, outside: Outside, stuck: Mapping[str, str] | None = None) -> None:
        self.document = document
        self.memory = memory
        self.outside = outside
        self.scope = document.scope
        self.state = State(names=_names(document))
        self.outcomes: list[Outcome] = []
        self.traces: dict[str, Trace] = {}
        self.stuck = stuck or {}
        # Bodies, sketches and step ids that a failed step would have made or changed, with that step's label.
        self.invalidated: dict[str, str] = {}
        self.progress: Callable[[Step], None] | None = None
        self.anew = False
        self._values: dict[str, str] = {}

    def step(self, step: Step) -> None:
        self.anew = False
        if step.skip:
            self.outcomes.append(Outcome(step.id, "skipped"))
            return
        key = self.memory.step_key(step)
        trace = next(self._usable(step, key), None)
        if trace is not None:
            self._finish(step, trace.again)
            return
        self.anew = True
        if self.progress:
            self.progress(step)
        if step.id in self.stuck:
            hint = "Change its sizes or its picks a little, or skip it."
            self._fall(step, Outcome(step.id, "failed", message=self.stuck[step.id], hint=hint), ())
            return
        began = time.perf_counter()
        builder = self.builder(step, key)
        try:
            step.build(builder)
        except Blocked as held:
            words = f"Waits for “{held.cause}”, which could not be built."
            self._fall(step, Outcome(step.id, "held", message=words), ())
            return
        except StepError as fault:
            outcome = Outcome(
                step.id,
                "failed",
                field=fault.field,
                message=fault.message,
                hint=fault.hint,
                flags=tuple(builder.flags),
                culprits=fault.culprits,
                sized=fault.sized,
                handles=tuple(builder.handles),
            )
        except SuppleError as fault:
            outcome = Outcome(step.id, "failed", message=fault.message, hint=fault.hint)
        except Exception as fault:  # whatever the kernel throws must not take the other steps along
            _log.info("step %s of type %s: %s: %s", step.id, step.type, type(fault).__name__, fault)
            words, hint = "The geometry kernel gave up on this step, without a reason.", "Change its sizes a little."
            outcome = Outcome(step.id, "failed", message=words, hint=hint)
        else:
            outcome = Outcome(
                step.id,
                "ok",
                notes=tuple(builder.notes),
                readings=tuple(builder.readings),
                flags=tuple(builder.flags),
                figures=dict(builder.figures),
                lines=builder.drawn_lines,
                handles=tuple(builder.handles),
                offers=builder.offers,
                travel=builder.travel,
            )
        outcome = replace(outcome, ms=(time.perf_counter() - began) * 1000)
        delta = builder.delta() if outcome.status == "ok" else Delta()
        trace = Trace(key, tuple(builder.reads), delta, outcome, tuple(builder.targets))
        self.memory.keep(step.id, trace)
        self._finish(step, trace)

    def builder(self, step: Step, key: str) -> RecordingBuilder:
        """What a step at this place of the document would be built with."""
        document = self.document
        return RecordingBuilder(
            step, key, self.state, self.scope, _material_key(document), self.outside, self.invalidated, document.steps
        )

    def _finish(self, step: Step, trace: Trace) -> None:
        self.traces[step.id] = trace
        if trace.outcome.status == "ok":
            self.state.take(trace.delta, step.id)
            self.outcomes.append(trace.outcome)
        else:
            self._fall(step, trace.outcome, trace.targets)

    def _fall(self, step: Step, outcome: Outcome, targets: tuple[str, ...]) -> None:
        """Mark what the step would have made or changed, and let its last good shapes stand in for the eye.

        Only what the step itself read counts, never what is remembered of it: else the outcome would hang on the past.
        """
        self.outcomes.append(outcome)
        good = self.memory.good.get(step.id, Delta())
        label = step.label
        self.invalidated.setdefault(step.id, label)
        for name in targets:
            self.invalidated.setdefault(name, label)
        self.state.last_good.update((entry.id, entry) for entry in good.bodies)
        for name in good.gone:
            self.state.last_good.pop(name, None)

    def _usable(self, step: Step, key: str) -> Iterator[Trace]:
        for trace in self.memory.traces.get(step.id, ()):
            if trace.step_key == key and all(self._current(*read[:2]) == read[2] for read in trace.reads):
                yield trace

    def _current(self, kind: str, name: str) -> str | None:
        """The key something has now; None if it may not be read because a failed step would have made it."""
        state = self.state
        if kind == "value":
            if name not in self._values:
                self._values[name] = value_key(self.scope, name)
            return self._values[name]
        if kind == "unit":
            return self.scope.unit
        if kind == "resin":
            return _material_key(self.document).key
        if kind == "order":
            return order_key(self.document.steps)
        if kind == "ahead":
            return str(steps_ahead(self.document.steps, *name.split(" ", 1)))
        if kind == "link":
            return self.outside.linked_key(LinkPick.model_validate_json(name))
        if kind == "bodies":
            return None if self.invalidated.keys() & state.bodies.keys() else state.bodies_key()
        if name in self.invalidated or maker(name) in self.invalidated:
            return None
        held: Mapping[str, Any] = {
            "body": state.bodies,
            "sketch": state.sketches,
            "datum": state.datums,
            "effect": state.effects,
        }
        known = held[kind].get(name)
        return str(known.key) if known else ""


def _names(document: Document) -> dict[str, tuple[str, str]]:
    """Names given by hand, with the step from which on each holds; of one that is no longer taken, from the start."""
    taken = {step.id for step in document.steps if not step.skip}
    return {body: (look.name, look.since if look.since in taken else "") for body, look in document.looks.items() if look.name}


def _material_key(document: Document) -> MaterialKey:
    own = document.grade.model_dump_json() if document.grade else ""
    return MaterialKey(f"{document.resin}{own}", document.made_of.family, document.material)
