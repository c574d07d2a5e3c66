"""Way: whether a body can be moved along a way, or turned, without running into others."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, AnyLength, AxisField, AxisPick, BodyPick
from supplecast.document.state import Travel
from supplecast.document.step import Before, Step
from supplecast.geometry import Floats, times


class Way(Step):
    """A way that a body is to go, sliding along an axis or turning about it, as a lid opens or a battery slides in: tried from
    where it lies, and told what it runs into first, and after how far. The body itself stays where it is.

    What it overlaps with where it lies is not counted again until they overlap by more.
    Example: {"id": "w1", "type": "way", "body": "lid", "how": "turning about", "axis": {"axis": "x"}, "angle": "110"}
    """

    type: Literal["way"] = "way"
    word = "Way"
    purpose = "try whether a body can move past others"
    search = "collision motion slide hinge open insert travel kinematics"
    follows = "wanted gap"
    picture = ("M4 14h8v7H4z", "M12 17h14m-4-4l4 4-4 4M6 10c2-6 12-8 16-3m0-4v4h-4")
    suits = ("faces",)
    document_kinds = ("part", "tool", "assembly")

    body: BodyPick = None
    how: Literal["sliding along", "turning about"] = "sliding along"
    axis: AxisField = AxisPick(axis="z")
    distance: AnyLength = "20 mm"
    angle: Angle = "90"

    def sentence(self) -> str:
        far = "{distance}" if self.how == "sliding along" else "{angle}"
        return f"Way of {{body}}, {{how}} {{axis}} by {far}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        named = next((pick["body"] for pick in picked if pick.get("body")), before.bodies[-1] if before.bodies else None)
        return {"body": named} if named else {}

    def build(self, at: Builder) -> None:
        moving = at.body(self.body, "body")
        others = [entry for entry in at.bodies() if entry.body.solid.encloses and entry.id != moving.id]
        axis = at.axis("axis")
        slides = self.how == "sliding along"
        far = at.mm("distance") if slides else at.radians("angle", -360.0, 360.0)
        if far == 0:
            at.fail("distance" if slides else "angle", "The way has no length.", "Type how far it is to go.")
        if slides:
            at.handle("distance", kernel.measure.loose_box(moving.body.solid).centre, axis.direction)

        def motion(share: float) -> Floats:
            by = times(axis.direction, share * far)
            return (kernel.move.shift(by) if slides else kernel.move.turn(axis, share * far)).matrix

        met = at.kernel("body", molding.travel.first_met, moving.body.solid, motion, [e.body.solid for e in others])
        gone, who = (abs(far), "") if met is None else (abs(met[0] * far), others[met[1]].name)
        kind: Literal["slide", "turn"] = "slide" if slides else "turn"
        at.travels(Travel(moving.id, kind, axis.point, axis.direction, far, gone, who))
        whole = f"{at.in_unit(abs(far))} {at.scope.unit}" if slides else f"{math.degrees(abs(far)):g}°"
        if met is None:
            at.reading(f"free all the way of {whole}", 0.0, 1.0)
            at.figure("free", abs(far))
            return
        done = f"{at.in_unit(gone)} {at.scope.unit}" if slides else f"{math.degrees(gone):.2f}°"
        at.reading(f"meets {who} after {done}", 2.0, 1.0)
        at.figure("free", gone)
