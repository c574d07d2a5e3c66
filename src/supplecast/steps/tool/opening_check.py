"""Opening check: halves, slides and parts drawn along their ways in order, and whether anything stands before them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from supplecast import molding
from supplecast.document.builder import Builder
from supplecast.document.state import PARTS, Entry
from supplecast.document.step import Step
from supplecast.geometry import Vec, times
from supplecast.naming.tag import in_role
from supplecast.steps.tool.marks import forms_part
from supplecast.wording import plural


@dataclass(frozen=True)
class _Move:
    """Bodies that leave together, their way, and what is still there then."""

    what: str
    moving: tuple[Entry, ...]
    direction: Vec
    staying: tuple[Entry, ...]


class OpeningCheck(Step):
    """Slides without a wedge are drawn first, by cylinders; then the core half leaves along the pull, then the slides that its
    wedges have held, sideways, then the cavity half. For each, the faces that form the part must look against the way it takes,
    and rays from its faces that lead must meet nothing. What is caught is shown. A slide that is still in when the core leaves
    keeps the part in the cavity half: it is said where that is away from the ejectors.
    Example: {"id": "oc9", "type": "opening check"}
    """

    type: Literal["opening check"] = "opening check"
    word = "Opening check"
    purpose = "prove that the tool opens"
    search = "does it open demold collision"
    follows = "casting box"
    picture = ("M5 15h22v6H5z", "M5 3h22v5H5zM16 14V9m-3 3l3-3 3 3")
    document_kinds = ("tool",)

    def sentence(self) -> str:
        return "Opening check"

    def build(self, at: Builder) -> None:
        bodies = at.bodies()
        of = {role: tuple(e for e in bodies if e.role == role) for role in {e.role for e in bodies}}
        core = (*of.get("core", ()), *of.get("core insert", ()))
        cavity = (*of.get("cavity", ()), *of.get("cavity insert", ()))
        slides = of.get("slide", ())
        parts = tuple(e for role in PARTS for e in of.get(role, ()))
        if not core or not cavity:
            at.fail("check", "There are no halves yet.", "Add the halves before this step.")
        pull = core[0].pull or (0.0, 0.0, 1.0)
        held = tuple(e for e in slides if any(in_role(tags, "lock") for tags in e.body.tags))
        drawn = tuple(e for e in slides if e not in held)
        moves = [_Move(e.name, (e,), e.pull or pull, (*core, *cavity, *parts)) for e in drawn]
        moves.append(_Move("core side", core, pull, (*cavity, *held, *parts)))
        moves += [_Move(e.name, (e,), e.pull or pull, (*cavity, *parts)) for e in held]
        moves.append(_Move("cavity side", cavity, times(pull, -1.0), parts))
        more = of.get("insert", ())  # what stands in the tool besides, such as a casting box
        meshes = {e.id: molding.opening.meshed(e.body.solid) for e in (*core, *cavity, *slides, *more, *parts)}
        for move in moves:
            self._clear(at, move, meshes)
        shared = self._shared(at, (*core, *cavity, *slides, *more), parts, meshes)
        order = "core side" + (f", {plural(len(held), 'slide')}" if held else "") + ", cavity side"
        order = f"{plural(len(drawn), 'slide')} by cylinders, {order}" if drawn else order
        if held and of.get("ejector"):
            words = f"{held[0].name} is still in when the core side leaves, and keeps the part in the cavity half"
            at.caution(
                "check", f"{words}, away from its ejectors. Leave its wedge out, lock 0, and let a cylinder draw it first."
            )
        at.note(
            f"Opens in order: {order}. Nothing stands before any of them, and no two share space ({shared:.3f} mm³ of facets)."
        )
        at.figure("opens", 1.0)

    def _clear(self, at: Builder, move: _Move, meshes: dict[str, molding.opening.Meshed]) -> None:
        for entry in move.moving:
            formed = [face for face, tags in enumerate(entry.body.tags) if forms_part(tags)]
            wrong = molding.opening.facing_wrong(entry.body.solid, formed, move.direction)
            if wrong:
                at.fail(
                    "check",
                    f"{entry.name} cannot leave: {plural(len(wrong), 'face')} of it look the way it goes and would take "
                    "the part along.",
                    "Free the undercut with a side opening, or change the part.",
                    lit=(entry, wrong),
                )
            trap = molding.opening.trapped(meshes[entry.id], move.direction, [meshes[other.id] for other in move.staying])
            if trap.faces:
                at.fail(
                    "check",
                    f"{entry.name} is caught: something stands before {trap.area:.1f} mm² of it.",
                    "Free the undercut with a side opening, or change the part.",
                    lit=(entry, trap.faces),
                )

    def _shared(
        self, at: Builder, steel: tuple[Entry, ...], parts: tuple[Entry, ...], meshes: dict[str, molding.opening.Meshed]
    ) -> float:
        """The most that any two bodies have in common: they must not overlap at rest."""
        worst = 0.0
        for number, first in enumerate(steel):
            for second in (*steel[number + 1 :], *parts):
                if not molding.opening.near(meshes[first.id], meshes[second.id]):
                    continue
                overlap = molding.opening.shared(meshes[first.id], meshes[second.id])
                if overlap > molding.opening.allowed(meshes[first.id], meshes[second.id]):
                    at.fail(
                        "check", f"{first.name} and {second.name} share {overlap:.1f} mm³.", "Look at the step that made them."
                    )
                worst = max(worst, overlap)
        return worst
