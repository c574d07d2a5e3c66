"""What patterns and mirrors have in common: what is copied, and what becomes of the copies."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Faces, FurtherBodies, OnlyBody, StepPicks
from supplecast.document.several import several
from supplecast.document.state import Effect, Entry
from supplecast.document.step import Before, Step
from supplecast.errors import StepError
from supplecast.naming import Body
from supplecast.naming.tag import maker

if TYPE_CHECKING:
    from supplecast.kernel.verbs.move import Motion

How = Literal["add", "cut"]


class Copying(Step):
    """Copies of what steps added or cut, of a feature given by its faces, or of a body.

    Copies of steps and faces are added or cut as the original was, all at once. Of a body, they are added to another, cut from
    it (the body itself being used up), or stay bodies; then `also` are further bodies that are copied along.
    """

    of: Literal["a body", "steps", "faces"] = "a body"
    tool: OnlyBody = None
    also: FurtherBodies = ()
    steps: StepPicks = ()
    faces: Faces = ()
    result: Literal["add", "cut", "as new bodies"] = "cut"
    body: BodyPick = None

    @property
    def repeats(self) -> bool:
        return True

    def subject(self) -> str:
        """The sentence's words for what is copied."""
        return {"a body": "{of} {tool}" + self._further(), "steps": "{of} {steps}", "faces": "{of} {faces}"}[self.of]

    def _further(self) -> str:
        return "{also}" if self.result == "as new bodies" else ""

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
        acting = [s.id for s in before.steps if getattr(s, "result", "") in ("add", "cut") and s.repeats]
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
            for number, entry in enumerate(several(at.body, at.body(self.tool, "tool"), self.also)):
                for label, motion in motions.items():
                    copy = _copy(at, entry.body, motion, label, field)
                    at.new(copy, entry.role, f"{entry.name} (copy {label})", f"{label}.{entry.id}" if number else label)
        else:
            self._used(at, motions, field)

    def _steps(self, at: Builder, motions: Mapping[str, Motion], field: str) -> None:
        if not self.steps:
            at.fail("steps", "No step is picked.", "Choose the steps to copy.")
        effects = {step: at.effect(step, "steps") for step in self.steps}
        dress = [step for step, effect in effects.items() if effect.how == "dress"]
        if dress:
            self._dressed(at, effects, dress, motions, field)
            return
        shaped: dict[str, tuple[Entry, Body]] = {}
        order = [step for step, _ in at.order]
        for step in sorted(self.steps, key=lambda s: order.index(s) if s in order else len(order)):
            effect = effects[step]
            if effect.target not in shaped:
                entry = at.target(effect.target, "steps")
                shaped[effect.target] = entry, entry.body
            entry, body = shaped[effect.target]
            every = list(effect.tools)
            tools, bores = every[: len(every) - effect.bores], every[len(every) - effect.bores :]
            copies = [_copy(at, t, motion, label, field) for label, motion in motions.items() for t in tools]
            bored = [_copy(at, t, motion, label, field) for label, motion in motions.items() for t in bores]
            how: How = "add" if effect.how == "add" else "cut"
            body = _used_on(at, body, copies, how, field)
            shaped[effect.target] = entry, _used_on(at, body, bored, "cut", field) if bored else body
            if len(self.steps) == 1:
                at.did(how, entry, [*tools, *copies], [*bores, *bored])
        for entry, body in shaped.values():
            at.replace(entry, body)

    def _dressed(
        self, at: Builder, effects: Mapping[str, Effect], dress: Sequence[str], motions: Mapping[str, Motion], field: str
    ) -> None:
        """Copies of what some steps added or cut together with the rounds and bevels that others put on it."""
        targets = {effect.target for effect in effects.values()}
        makers = [step for step in effects if step not in dress]
        if not makers:
            at.fail(
                "steps",
                "A round or a bevel is copied along with what it is on.",
                "Choose the step that adds or cuts that, too.",
            )
        if len(targets) > 1:
            at.fail(
                "steps", "These steps change several bodies.", "Copy those of one body, and the others with a further step."
            )
        entry = at.target(targets.pop(), "steps")
        body = entry.body
        faces = dressed_faces(body, makers, dress)
        for step in (*makers, *dress):
            if not any(maker(body.tags[face][0]) == step for face in faces):
                words = "rounds or bevels nothing of what is copied" if step in dress else "has no face of its own left"
                at.fail("steps", f"{at.called(step).capitalize()} {words}.", "Take it out, or choose the step it belongs to.")
        try:
            lifted = [at.kernel("steps", kernel.feature.lifted, body.solid, island) for island in body.solid.islands(faces)]
        except StepError as fault:
            at.fail("steps", fault.message, "Choose every step that rounds or bevels it, too.", (entry, faces))
        done: dict[How, list[Body]] = {}
        ways: tuple[How, ...] = ("add", "cut")
        for how in ways:
            features = [at.named(made, entry.body) for made, out in lifted if out == (how == "add")]
            copies = [_copy(at, one, motion, label, field) for one in features for label, motion in motions.items()]
            if copies:
                body = _used_on(at, body, copies, how, field)
                done[how] = [*features, *copies]
        at.replace(entry, body)
        if "add" in done:
            at.did("add", entry, done["add"], done.get("cut", ()))
        else:
            at.did("cut", entry, done["cut"])

    def _faces(self, at: Builder, motions: Mapping[str, Motion], field: str) -> None:
        at.need_picks("faces", "Pick all faces of the boss, rib or hole to copy.")
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


def dressed_faces(body: Body, makers: Sequence[str], dress: Sequence[str]) -> list[int]:
    """The faces that some steps made, and those that others put on these and on each other."""
    first = [maker(tags[0]) for tags in body.tags]
    faces = {face for face, step in enumerate(first) if step in makers}
    edge = faces
    while edge:
        beside = set().union(*(body.solid.neighbours[face] for face in edge))
        edge = {face for face in beside if first[face] in dress} - faces
        faces = faces | edge
    return sorted(faces)


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
