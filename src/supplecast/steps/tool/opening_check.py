"""Opening check: halves, slides and parts drawn along their ways in order, whether anything stands before them, and where the
parts stay.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.state import PARTS, Entry
from supplecast.document.step import Step
from supplecast.geometry import Bools, Vec, dot, times
from supplecast.naming.tag import in_role
from supplecast.steps.tool.marks import CAVITY, CORE, forms_part
from supplecast.steps.tool.moving import BESIDE, PUSHING, SHORT, Tool
from supplecast.steps.tool.pair import PLANES
from supplecast.steps.tool.sides import sideways
from supplecast.steps.tool.slide_ways import stroke_to_stop
from supplecast.tooling.base.third import STRIPS, opens_for
from supplecast.wording import brief, plural

_AT_STOP = 0.25  # mm before a slide comes against its stop, which a ray from its skin is no nearer to
_PINS = ("[pin ", "[sleeve ")  # what tells the faces of pins from those of a plate they stand on
_MANY = 50.0  # times as hard: as good as alone


@dataclass(frozen=True)
class _Move:
    """Bodies that leave together, their way, and what is still there then; `far` if they go no farther. Of `forming` ones the
    faces that form the part are looked at too.
    """

    what: str
    moving: Sequence[Entry]
    direction: Vec
    staying: Sequence[Entry]
    far: float = math.inf
    forming: bool = True


class OpeningCheck(Step):
    """Where runners lie behind the cavity plate, the tool opens there first, and the runner plate is drawn on.

    Slides without a wedge are drawn first, by cylinders. Those that ride on the core half leave the cavity half with it and
    the part, and then sideways; those that its wedges hold in the cavity half leave once it is gone. For each, the faces that
    form the part must look against the way it takes, and rays from its faces that lead must meet nothing. What is caught is
    shown. Then the ejectors go their stroke.

    The part stays where a slide holds it, else on the half that it has shrunk onto harder; a tool that keeps it away from its
    ejectors is refused.
    Example: {"id": "oc9", "type": "opening check"}
    """

    type: Literal["opening check"] = "opening check"
    word = "Opening check"
    purpose = "prove that the tool opens"
    search = "does it open demold collision ejection sticks stays"
    follows = "casting box"
    picture = ("M5 15h22v6H5z", "M5 3h22v5H5zM16 14V9m-3 3l3-3 3 3")
    document_kinds = ("tool",)

    def sentence(self) -> str:
        return "Opening check"

    def build(self, at: Builder) -> None:
        tool = Tool(at.bodies())
        if not tool.core or not tool.cavity:
            at.fail("check", "There are no halves yet.", "Add the halves before this step.")
        for move in self._moves(tool):
            self._clear(at, move)
        shared = self._shared(at, tool)
        at.note(
            f"Opens in order: {self._order(tool)}. Nothing stands before any of them, and no two share space "
            f"({shared:.3f} mm³ of facets)."
        )
        if tool.parts:
            self._stay(at, tool)
        at.figure("opens", 1.0)

    def _moves(self, tool: Tool) -> list[_Move]:
        core, cavity, parts = tool.core, tool.cavity, tool.parts
        fixed, moving = tool.of("fixed base"), tool.of("moving base", *PUSHING)
        moves = self._behind(tool)
        moves += [_Move(e.name, [e], e.pull or tool.pull, [*core, *cavity, *parts]) for e in tool.drawn]
        moves.append(_Move("core side", [*core, *moving], tool.pull, [*cavity, *fixed, *tool.held, *parts]))
        moves.append(_Move("lifters", tool.lifters, tool.pull, [*cavity, *fixed, *tool.held], forming=False))
        moves += [_Move(e.name, [e], e.pull or tool.pull, [*core, *parts]) for e in tool.riding]
        for slide in (e for e in tool.riding if tool.gibs):
            far = (stroke_to_stop(tool.bodies, slide) or SHORT) - _AT_STOP
            moves.append(_Move(slide.name, [slide], slide.pull or tool.pull, tool.of("moving base"), far, forming=False))
        moves += [_Move(e.name, [e], e.pull or tool.pull, [*cavity, *parts]) for e in tool.held]
        opened = [*core, *moving, *parts] if tool.riding else parts
        moves.append(_Move("cavity side", [*cavity, *fixed], times(tool.pull, -1.0), opened))
        for slide in tool.riding:  # seen from a slide that its pin draws, the fixed side leaves along that pin
            near = [e for e in (*cavity, *fixed) if kernel.nearness.boxes_apart(e.body.solid, slide.body.solid) < BESIDE]
            pin = tool.pin_of(slide)
            axis = pin.pull if pin and pin.pull else tool.pull
            moves.append(_Move(slide.name, near, times(axis, -1.0), [slide], forming=False))
        pushing = tool.of(*PUSHING)
        if pushing and tool.stroke:
            still = [*core, *tool.of("moving base")]
            moves.append(_Move("ejectors", pushing, times(tool.pull, -1.0), still, tool.stroke - SHORT, forming=False))
            for lifter in tool.lifters:
                axis = lifter.pull or tool.pull
                rise = -dot(axis, tool.pull)  # of its way, along which the ejector plates go
                far = (tool.stroke - SHORT) / rise
                moves.append(_Move(lifter.name, [lifter], axis, still, far, forming=False))
                aside = far * math.sqrt(1 - rise**2)
                out = sideways(axis, tool.pull)
                moves.append(_Move(lifter.name, [lifter], out, parts, aside))
                moves.append(_Move(lifter.name, [lifter], out, tool.of("ejection"), aside - _AT_STOP, forming=False))
        return moves

    def _behind(self, tool: Tool) -> list[_Move]:
        """How a third plate opens: all that is before the runners leaves them, then their plate goes on from the clamping
        plate, which pushes them off their pins.
        """
        plate = tool.runner_plate
        if plate is None:
            return []
        floats, goes, stays = tool.hanging(plate)
        before = tool.before_runners(floats)
        far = opens_for(tool.feed_long)
        feeds = tool.of("feed")
        return [
            _Move("cavity side", before, tool.pull, [*goes, *stays, *feeds], far - SHORT, forming=False),
            _Move("runner plate", goes, tool.pull, stays, STRIPS - _AT_STOP, forming=False),
        ]

    def _order(self, tool: Tool) -> str:
        slides = [f"{plural(len(tool.riding), 'slide')} on it"] if tool.riding else []
        slides += [plural(len(tool.held), "slide")] if tool.held else []
        order = ", ".join(["core side", *slides, "cavity side"] if not tool.riding else ["core side with the parts", *slides])
        order = f"{plural(len(tool.drawn), 'slide')} by cylinders, {order}" if tool.drawn else order
        pushing = "ejectors and lifters" if tool.lifters else "ejectors"
        order = f"cavity side off the runners, runner plate, {order}" if tool.runner_plate else order
        return f"{order}, {pushing}" if tool.of(*PUSHING) else order

    def _clear(self, at: Builder, move: _Move) -> None:
        meshed = molding.opening.meshed
        others = molding.opening.standing([meshed(other.body.solid) for other in move.staying])
        for entry in move.moving:
            formed = [face for face, tags in enumerate(entry.body.tags) if move.forming and forms_part(tags)]
            wrong = molding.opening.facing_wrong(entry.body.solid, formed, move.direction) if formed else ()
            if wrong:
                at.fail(
                    "check",
                    f"{entry.name} cannot leave: {plural(len(wrong), 'face')} of it look the way it goes and would take "
                    "the part along.",
                    "Free the undercut with a side opening, or with lifters where it is inside, or change the part.",
                    lit=(entry, wrong),
                )
            trap = molding.opening.trapped(meshed(entry.body.solid), move.direction, others, move.far)
            if trap.faces:
                hint = "Free the undercut with a side opening, or change the part."
                if move.far < math.inf or entry.stock:
                    hint = "Look at the step that made it."
                at.fail(
                    "check",
                    f"{entry.name} is caught: something stands before {trap.area:.1f} mm² of it.",
                    hint,
                    lit=(entry, trap.faces),
                )

    def _shared(self, at: Builder, tool: Tool) -> float:
        """The most that any two bodies have in common: they must not overlap at rest."""
        worst = 0.0
        steel = [e for e in tool.bodies if e.is_own and e.role not in (*PARTS, "feed", "shot", "part")]
        meshes = {e.id: molding.opening.meshed(e.body.solid) for e in (*steel, *tool.parts)}
        # A plate is asked once for all that stands in it; from the other side it would be asked anew for each screw.
        steel.sort(key=lambda e: -len(meshes[e.id].mesh.triangles))
        for number, first in enumerate(steel):
            mine = meshes[first.id]
            beside = [e for e in (*steel[number + 1 :], *tool.parts) if molding.opening.near(mine, meshes[e.id])]
            overlaps = molding.opening.shared_by_most(mine, [meshes[e.id] for e in beside])
            for second, overlap in zip(beside, overlaps, strict=True):
                if overlap > molding.opening.allowed(meshes[first.id], meshes[second.id]):
                    at.fail(
                        "check", f"{first.name} and {second.name} share {overlap:.1f} mm³.", "Look at the step that made them."
                    )
                worst = max(worst, overlap)
        return worst

    # --- where the parts stay ---------------------------------------------------------------------------------------

    def _stay(self, at: Builder, tool: Tool) -> None:
        pushed = bool(tool.of("ejector", "stripper"))
        if tool.held:
            words = f"{tool.held[0].name} is still in when the core side leaves, and keeps the parts in the cavity half"
            if pushed:
                at.fail(
                    "check",
                    f"{words}, away from their ejectors.",
                    "Let it ride on the core half, or leave its wedge out, lock 0, so that a cylinder draws it first.",
                    lit=(tool.held[0], range(tool.held[0].body.solid.face_count)),
                )
            at.note(f"{words}: they are taken out of it by hand.")
            return
        if tool.riding:
            at.note(f"The parts stay on the core side, held by {tool.riding[0].name} until it has left.")
            undriven = [e.name for e in tool.riding if tool.pin_of(e) is None]
            if undriven and tool.stroke:
                at.caution("check", f"Nothing draws {undriven[0]}. Add a slide drive before this step.")
            self._early(at, tool)
            return
        part = tool.parts[0]
        grip = molding.staying.grip(molding.judge.skin_of(part.body.solid).places, tool.pull, self._of_core(tool, part))
        if grip.share >= molding.staying.ALIKE:
            often = "alone" if grip.cavity <= 0 or grip.share > _MANY else f"{brief(grip.share, 2)} times as hard"
            at.note(f"The parts stay on the core side, onto which they shrink {often}.")
        elif grip.share > 1 / molding.staying.ALIKE:
            words = f"The parts hold on to both halves alike, {brief(grip.share, 2)} to 1, and may stay in either"
            at.caution("check", f"{words}. Give the cavity side more draft, or the core side less.")
        elif pushed:
            words = f"The parts shrink onto the cavity half {brief(1 / grip.share, 2) if grip.share else 'alone'}"
            words += " times as hard, and stay there, away from their ejectors" if grip.share else ", and stay there"
            at.fail("check", f"{words}.", "Turn the part over with “Lay”, so that what it shrinks onto is the core.")
        else:
            at.note("The parts stay in the cavity half, onto which they shrink harder.")

    def _of_core(self, tool: Tool, part: Entry) -> Bools:
        """Which triangles of a part's skin the core forms: by the parting line's marks, else by their side of the plane."""
        places = molding.judge.skin_of(part.body.solid).places
        marks = [next((s for tag in tags for s in (CORE, CAVITY) if f".{s}" in tag), "") for tags in part.body.tags]
        if all(marks):
            return np.array([mark == CORE for mark in marks])[places.faces]
        faces = [face for face, tags in enumerate(tool.core[0].body.tags) if in_role(tags, *PLANES)]
        level = dot(kernel.measure.flat_frame(tool.core[0].body.solid, faces[0]).origin, tool.pull) if faces else 0.0
        above: Bools = places.middles @ np.array(tool.pull) > level
        return above

    def _early(self, at: Builder, tool: Tool) -> None:
        """Pins under a slide: it would run into them if it came home before they are back."""
        back = times(tool.pull, -1.0)
        for slide in tool.riding:
            mesh = molding.opening.standing([molding.opening.meshed(slide.body.solid)])
            for pin in tool.of("ejector"):
                trap = molding.opening.trapped(molding.opening.meshed(pin.body.solid), back, mesh, tool.stroke or math.inf)
                if any(mark in tag for mark in _PINS for face in trap.faces for tag in pin.body.tags[face]):
                    words = f"{pin.name} stands under {slide.name}, which would run into it"
                    at.caution("check", f"{words}: the ejectors must be back before the tool shuts (early return).")
                    break
