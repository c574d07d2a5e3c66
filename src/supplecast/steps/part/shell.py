"""Shell: a body hollowed to a wall, open at the picked faces."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Faces, Length
from supplecast.document.step import Step

if TYPE_CHECKING:
    from supplecast.document.model import Document


class Shell(Step):
    """Hollow a body inwards. Without an open face the hollow is closed, and the sheet says so.

    Example: {"id": "b07", "type": "shell", "wall": "wall", "open": [{"face": "p81.end"}]}
    """

    type: Literal["shell"] = "shell"
    word = "Shell"
    purpose = "hollow a body to a wall"
    rank = 90
    picture = ("M4 5h24v16H4z", "M8 5v12h16V5")
    suits = ("faces",)

    wall: Length = "2 mm"
    open: Faces = ()
    body: BodyPick = None

    def sentence(self) -> str:
        return "Shell wall {wall}, open at {open}"

    @classmethod
    def fresh(cls, document: Document, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"open": [pick for pick in picked if "face" in pick], "wall": "wall" if "wall" in document.values else "2 mm"}

    def build(self, at: Builder) -> None:
        entry = at.holder("open", self.body)
        wall = at.mm("wall")
        made = at.kernel("wall", kernel.walls.shell, entry.body.solid, at.faces("open", entry), wall)
        if not self.open:
            at.note("Closed hollow: no face is open, the cavity cannot be seen from outside.")
        at.replace(entry, at.named(made, entry.body))
