"""Shell: a body hollowed to a wall, open at the picked faces."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

from supplecast import kernel
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Faces, FieldSpec, Length, Row
from supplecast.document.step import Before, Step


class OtherWall(Row):
    """Faces with a wall of their own."""

    sentence: ClassVar[str] = "; {wall} at {faces} "
    adding: ClassVar[str] = "other wall"

    wall: Length = "3 mm"
    faces: Faces = ()


class Shell(Step):
    """Hollow a body inwards; or outwards, so that the body becomes the hollow; or with half the wall to each side. `others` are
    faces with another wall; faces that run into each other smoothly share one. Without an open face the hollow is closed, and
    the sheet says so.

    An open flat face may be bounded by rounds: the wall then ends square to it. Where the body has a re-entrant edge, the
    hollow's edge along it is `rounded`, as an even wall makes it, or `sharp`, by one rule for the whole shell; `rounded or
    sharp` takes what fits, so that a number can change the rule.

    Every wall is measured from many points before it is taken. Shell after drafting and rounding: rounds made before stay
    concentric, and the wall stays even.
    Example: {"id": "b07", "type": "shell", "wall": "wall", "open": [{"face": "p81.end"}]}
    """

    type: Literal["shell"] = "shell"
    word = "Shell"
    purpose = "hollow a body to a wall"
    search = "hollow wall thickness empty"
    follows = "score"
    picture = ("M4 5h24v16H4z", "M8 5v12h16V5")
    suits = ("faces",)

    wall: Length = "2 mm"
    side: Literal["inwards", "outwards", "to both sides"] = "inwards"
    open: Faces = ()
    corners: Literal["rounded or sharp", "rounded", "sharp"] = "rounded or sharp"
    others: Annotated[tuple[OtherWall, ...], FieldSpec("rows")] = ()
    body: BodyPick = None

    def sentence(self) -> str:
        corners = "" if self.corners == "rounded or sharp" or self.side == "outwards" else ", re-entrant edges {corners}"
        return f"Shell wall {{wall}} {{side}}{corners}, open at {{open}}{{others}}"

    def more(self) -> str:
        unsaid = self.corners == "rounded or sharp" and self.side != "outwards"
        return "re-entrant edges {corners}; {others.add}" if unsaid else "{others.add}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        opened = [pick for pick in picked if "face" in pick]
        return {"open": opened, "corners": "rounded", "wall": "wall" if "wall" in before.values else "2 mm"}

    def build(self, at: Builder) -> None:
        entry = at.holder("open", self.body)
        solid = entry.body.solid
        wall, opened = at.mm("wall"), at.faces("open", entry)
        handling.inside_rim(at, "wall", solid, opened)
        others: dict[int, float] = {}
        for number, row in enumerate(self.others):
            field = f"others.{number}"
            if not row.faces:
                at.fail(f"{field}.faces", "No face is picked for this wall.", "Pick its faces, or take it out.")
            for face in at.faces(f"{field}.faces", entry):
                if face in opened:
                    at.fail(f"{field}.faces", "An open face has no wall.", "Unpick it here, or close it.")
                if face in others:
                    at.fail(f"{field}.faces", "A face is given two walls.", "Unpick it in one of them.")
                others[face] = at.mm(f"{field}.wall")
        corners: kernel.wall_check.Corners = "either" if self.corners == "rounded or sharp" else self.corners
        shell = kernel.walls.shell
        made = at.kernel("wall", shell, solid, opened, wall, side=self.side, others=others, corners=corners)
        if not self.open:
            hollow = abs(kernel.measure.volume(solid) - kernel.measure.volume(made.solid)) / 1000
            at.note(f"Closed hollow of about {hollow:.3g} cm³: no face is open, so nobody can see it from outside.")
        at.replace(entry, at.named(made, entry.body))
