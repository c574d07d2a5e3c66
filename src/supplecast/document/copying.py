"""What patterns and mirrors have in common: what is copied, and what becomes of the copies."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Faces, OnlyBody, StepPicks
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.naming import Body

if TYPE_CHECKING:
    from supplecast.kernel.verbs.move import Motion

How = Literal["add", "cut"]


class Copying(Step):
    """Copies of what steps added or cut, of a feature given by its faces, or of a body.

    Copies of steps and faces are added or cut as the original was, all at once. Of a body, they are added to another, cut from
    it (the body itself being used up), or stay bodies.
    """

    of: Literal["a body", "steps", "faces"] = "a body"
    tool: OnlyBody = None
    steps: StepPicks = ()
    faces: Faces = ()
    result: Literal["add", "cut", "as new bodies"] = "cut"
    body: BodyPick = None

    def subject(self) -> str:
        """The sentence's words for what is copied."""
        return {"a body": "{of} {tool}", "steps": "{of} {steps}", "faces": "{of} {faces}"}[self.of]

    def outcome(self) -> str:
        """The end of the sentence: what becomes of the copies."""
        if self.of != "a body":
            return ""
        return ", {result}" + {"add": " to {body}", "cut": " from {body}", "as new bodies": ""}[self.result]

    @classmethod
    def subject_of(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        """First values: the picked faces, else the last step that adds or cuts, else the last body."""
        faces = [pick for pick in picked if "face" in pick]
        if faces:
            return {"of": "faces", "faces": faces}
        acting = [s.id for s in before.steps if getattr(s, "result", "") in ("add", "cut") and not isinstance(s, Copying)]
        if acting:
            return {"of": "steps", "steps": acting[-1:]}
        bodies = [step.id for step in before.steps if getattr(step, "result", "") == "new"]
        return {"of": "a body", "tool": bodies[-1] if bodies else None, "result": "as new bodies"}

    def leave(self, at: Builder, places: dict[str, Any]) -> None:
        """Take the original, and the numbers to be left out, from the copies to be made."""
        left_out: Sequence[str] = getattr(self, "leave_out", ())
        wrong = next((number for number in left_out if number not in places), None)
        if wrong is not None:
            at.fail("leave_out", f"There is no copy number {wrong}.", f"Copies go from 1 to {list(places)[-1]}.")
        if "1" in left_out:
            at.fail("leave_out", "Number 1 is the original, which stays.", "Skip the step that makes it instead.")
        for number in ("1", *left_out):
            del places[number]

    def spread(self, at: Builder, motions: Mapping[str, Motion], field: str) -> None:
        """Make a copy for each motion, by its label; the original stays where it is."""
        if self.of == "steps":
            self._steps(at, motions, field)
        elif self.of == "faces":
            self._faces(at, motions, field)
        elif self.result == "as new bodies":
            entry = at.body(self.tool, "tool")
            for label, motion in motions.items():
                at.new(_copy(at, entry.body, motion, label, field), entry.role, f"{entry.name} (copy {label})", label)
        else:
            self._used(at, motions, field)

    def _steps(self, at: Builder, motions: Mapping[str, Motion], field: str) -> None:
        if not self.steps:
            at.fail("steps", "No step is picked.", "Choose the steps to copy.")
        shaped: dict[str, tuple[Entry, Body]] = {}
        order = [step for step, _ in at.order]
        for step in sorted(self.steps, key=lambda s: order.index(s) if s in order else len(order)):
            effect = at.effect(step, "steps")
            if effect.target not in shaped:
                entry = at.target(effect.target, "steps")
                shaped[effect.target] = entry, entry.body
            entry, body = shaped[effect.target]
            every = list(effect.tools)
            tools, bores = every[: len(every) - effect.bores], every[len(every) - effect.bores :]
            copies = [_copy(at, t, motion, label, field) for label, motion in motions.items() for t in tools]
            bored = [_copy(at, t, motion, label, field) for label, motion in motions.items() for t in bores]
            body = _used_on(at, body, copies, effect.how, field)
            shaped[effect.target] = entry, _used_on(at, body, bored, "cut", field) if bored else body
            if len(self.steps) == 1:
                at.did(effect.how, entry, [*tools, *copies], [*bores, *bored])
        for entry, body in shaped.values():
            at.replace(entry, body)

    def _faces(self, at: Builder, motions: Mapping[str, Motion], field: str) -> None:
        if not self.faces:
            at.fail("faces", "No face is picked.", "Pick all faces of the boss, rib or hole to copy.")
        entry = at.holder("faces", None)
        made, out = at.kernel("faces", kernel.feature.lifted, entry.body.solid, at.faces("faces", entry))
        feature = at.named(made, entry.body)
        copies = [_copy(at, feature, motion, label, field) for label, motion in motions.items()]
        how: How = "add" if out else "cut"
        at.replace(entry, _used_on(at, entry.body, copies, how, field))
        at.did(how, entry, copies)

    def _used(self, at: Builder, motions: Mapping[str, Motion], field: str) -> None:
        """A body used up, where it stands and at its copies."""
        target = at.target(self.body)
        tool = at.tools("tool", target, "to copy")[0] if self.tool else at.body(None, "tool")
        whole = {"1": kernel.move.shift((0.0, 0.0, 0.0)), **motions}
        copies = [_copy(at, tool.body, motion, label, field) for label, motion in whole.items()]
        how: How = "add" if self.result == "add" else "cut"
        at.replace(target, _used_on(at, target.body, copies, how, "tool"))
        at.did(how, target, copies)
        at.remove(tool)


def _copy(at: Builder, body: Body, motion: Motion, label: str, field: str) -> Body:
    role = label if not label[0].isdigit() else f"copy{label}"
    return at.named(at.kernel(field, kernel.move.copied, body.solid, motion, role), body)


def _used_on(at: Builder, body: Body, copies: Sequence[Body], how: How, field: str) -> Body:
    solids = [copy.solid for copy in copies]
    if how == "add":
        made = at.kernel(field, kernel.boolean.fuse, body.solid, solids)
    else:
        made = at.kernel(field, kernel.boolean.cut, body.solid, solids)[0]
    return at.named(made, body, *copies)
