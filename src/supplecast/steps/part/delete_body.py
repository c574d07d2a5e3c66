"""Delete body: bodies that are not needed any further."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPicks
from supplecast.document.step import Before, Step


class DeleteBody(Step):
    """Take bodies or surfaces out of the document from this step on; steps above still have them.

    Example: {"id": "db1", "type": "delete body", "bodies": ["q2"]}
    """

    type: Literal["delete body"] = "delete body"
    word = "Delete body"
    purpose = "take bodies out from here on"
    search = "remove erase body"
    follows = "scale"
    picture = ("M6 7h20v14H6z", "M9 10l14 8M23 10L9 18")
    suits = ("faces",)
    takes_meshes = True

    bodies: BodyPicks = ()

    @property
    def spent(self) -> tuple[str, ...]:
        return self.bodies

    def sentence(self) -> str:
        return "Delete body {bodies}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        return {"bodies": list(dict.fromkeys(pick["body"] for pick in picked if pick.get("body")))}

    def build(self, at: Builder) -> None:
        if not self.bodies:
            at.fail("bodies", "No body is chosen.", "Choose what is to go.")
        for name in self.bodies:
            at.remove(at.target(name, "bodies"))
