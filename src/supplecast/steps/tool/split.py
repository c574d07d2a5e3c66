"""Split: the block parted into cavity half and core half along a plane.

A plane through the rim of a hollow part leaves a plug inside it, below the plane, that belongs to the core. So pieces are
not counted but classified: a piece that reaches the block's outside belongs to the half on its side of the plane, an
enclosed one to the half across.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, PlaneField
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.geometry import Frame, Vec, dot, times
from supplecast.naming import Body


class Split(Step):
    """Part the block at a plane square to the pull: core ahead of it, cavity behind.

    Example: {"id": "p5", "type": "split", "at": {"face": "k1.of{p81.end}"}}
    """

    type: Literal["split"] = "split"
    word = "Split"
    purpose = "part the block into core and cavity"
    search = "part core cavity halves plane"
    follows = "side opening"
    picture = ("M4 3h24v7H4zM4 15h24v7H4z", "M2 12.5h28")
    suits = ("faces",)
    document_kinds = ("tool",)

    at: PlaneField
    block: BodyPick = None

    def sentence(self) -> str:
        return "Split {block} at {at} into core and cavity"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        if face:
            return {"at": face}
        if before.last is not None and before.last.type == "plane":
            return {"at": {"datum": before.last.id}}
        return {"at": {"plane": ("side", "front", "top")[max(range(3), key=lambda axis: abs(before.pull[axis]))]}}

    def build(self, at: Builder) -> None:
        block = at.target(self.block, "block", roles=("block",))
        pull = block.pull or (0.0, 0.0, 1.0)
        frame = self._along(at, at.frame("at"), pull)
        pieces = [at.named(m, block.body) for m in at.kernel("at", kernel.split.by_plane, block.body.solid, frame)]
        core, cavity = self._sorted(block, pieces, frame)
        if not core or not cavity:
            at.fail("at", "The plane leaves one half empty.", "Move it so that the part lies on both sides or against it.")
        halves = {"core": self._joined(at, core), "cavity": self._joined(at, cavity)}
        volume = kernel.measure.volume
        whole = volume(block.body.solid)
        misfit = abs(whole - sum(volume(half.solid) for half in halves.values())) / whole
        if misfit > 1e-9:
            at.fail("at", f"The halves do not add up to the block: they are {misfit:.1e} apart.", "Move the plane a little.")
        at.figure("identity", misfit)
        at.note(f"Halves and part add up to the block, to {max(misfit, 1e-16):.0e}.")
        for name, half in halves.items():
            if self._is_plain(half, block, frame):
                at.caution(
                    "at",
                    f"The {name} half is plain: the whole part is formed by the other one. If the part is hollow, a hole "
                    "through it joins its inside to its outside: leave the hole out until it can be shut off.",
                )
        at.new(halves["cavity"], "cavity", "Cavity half", "cavity", pull)
        at.new(halves["core"], "core", "Core half", "core", pull)
        at.remove(block)

    def _is_plain(self, half: Body, block: Entry, frame: Frame) -> bool:
        """Whether a half has no face of the part but in the parting plane."""
        level = dot(frame.origin, frame.normal)
        for face, tags in enumerate(half.tags):
            if tags[0].startswith((f"{block.id}.", f"{self.id}.")):
                continue
            if abs(dot(kernel.measure.face_middle(half.solid, face), frame.normal) - level) > 1e-6:
                return False
        return True

    def _along(self, at: Builder, frame: Frame, pull: Vec) -> Frame:
        lean = dot(frame.normal, pull)
        if abs(lean) < 1 - 1e-9:
            at.fail("at", "The split plane does not stand square to the pull.", "Pick a face or plane square to it.")
        return frame if lean > 0 else Frame(frame.origin, frame.x, times(frame.normal, -1.0))

    def _sorted(self, block: Entry, pieces: list[Body], frame: Frame) -> tuple[list[Body], list[Body]]:
        """Pieces of the core and of the cavity, those that reach the outside first."""
        core: list[Body] = []
        cavity: list[Body] = []
        prefix = f"{block.id}."
        reaches = {id(p): any(t.startswith(prefix) for tags in p.tags for t in tags) for p in pieces}
        for piece in sorted(pieces, key=lambda p: not reaches[id(p)]):
            ahead = kernel.split.height(piece.solid, frame) > 0
            (core if ahead == reaches[id(piece)] else cavity).append(piece)
        return core, cavity

    def _joined(self, at: Builder, pieces: list[Body]) -> Body:
        if len(pieces) == 1:
            return pieces[0]
        solids = [piece.solid for piece in pieces]
        made = at.kernel("at", kernel.boolean.fuse, solids[0], solids[1:], simplify=False)
        return at.named(made, *pieces)
