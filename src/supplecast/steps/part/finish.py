"""Finish: how a body or some of its faces look, and what they are etched with."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import StringConstraints

from supplecast.art.look import Grain, Kind
from supplecast.document import coat
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Colour, Faces, FieldSpec, LengthFromZero, Percent
from supplecast.document.state import Entry
from supplecast.document.step import Before, Step
from supplecast.text import Cleaned
from supplecast.tooling.resins import required_draft
from supplecast.wording import plural, show

DEEPEST = 2.0
"""mm of a texture: deeper is a shape, and is modelled."""
_BEGINNINGS: dict[str, dict[str, str]] = {
    "clear": {"gloss": "90 %"},
    "frosted": {"gloss": "30 %"},
    "metal": {"gloss": "70 %"},
    "solid": {"gloss": "35 %"},
}


class Finish(Step):
    """How a whole body looks, or some of its faces, which then look so whatever the body does: in a colour, clear or frosted
    with a tint, or of metal, from matt to glossy.

    A texture is etched into the mold: fine or coarse, so many mm deep, by the `code` that the toolmaker knows it by. Its depth
    asks these faces for more draft. `tint` says how much of the colour something clear takes on. The shape does not change.
    Example: {"id": "fi1", "type": "finish", "what": "only", "on": [{"face": "p81.end"}], "colour": "#2F6C76"}
    """

    type: Literal["finish"] = "finish"
    word = "Finish"
    purpose = "colour, gloss and texture of a body or of faces"
    search = "colour color material look paint gloss matt clear transparent frosted metal texture etch spark"
    follows = "score"
    picture = ("M4 18l8-11h16l-8 11z", "M15 7l-6 11h6l6-11zM24 7l-6 11")
    suits = ("faces",)
    document_kinds = ("part", "tool", "assembly")
    takes_meshes = True

    what: Literal["all of", "only"] = "all of"
    body: BodyPick = None
    on: Faces = ()
    kind: Kind = "solid"
    colour: Colour = "#2F6C76"
    gloss: Percent = "35 %"
    tint: Percent = "20 %"
    grain: Grain = "as the part"
    depth: LengthFromZero = "0.02 mm"
    code: Annotated[str, Cleaned, StringConstraints(max_length=60), FieldSpec("words")] = ""

    def sentence(self) -> str:
        where = "{body}" if self.what == "all of" else "{on}"
        return f"Finish {{what}} {where} {{kind}} {{colour}}, gloss {{gloss}}"

    def more(self) -> str:
        tinted = "tinted {tint}; " if self.kind in ("clear", "frosted") else ""
        etched = " {depth} deep, code {code}" if self.grain in ("fine", "coarse") else ""
        return f"{{colour.near}} {tinted}texture {{grain}}{etched}"

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        faces = [pick for pick in picked if "face" in pick or pick.get("rule")]
        if faces:
            return {"what": "only", "on": faces}
        return {"body": before.bodies[-1]} if len(before.bodies) > 1 else {}

    def along_with(self, path: str, value: Any, before: Before) -> dict[str, Any]:
        return dict(_BEGINNINGS[value]) if path == "kind" and value in _BEGINNINGS else {}

    def build(self, at: Builder) -> None:
        worn_by = self._worn_by(at)
        gloss, tint = self._share(at, "gloss"), self._share(at, "tint")
        etched = self.grain in ("fine", "coarse")
        depth = at.mm("depth") if etched else 0.0
        if depth > DEEPEST:
            deepest = f"{at.no_more(DEEPEST)} {at.scope.unit}"
            at.fail("depth", f"A texture is up to {deepest} deep.", "Model what is deeper as a shape.")
        if etched:
            more = show(required_draft(0.0, depth), 2)
            at.note(f"It asks these faces for {more}° of draft more than the resin does.")
        whole = self.what == "all of"
        body, code = worn_by[0][0].id if whole else "", self.code.strip()
        worn = coat.Finish(self.id, self.label, whole, body, self.kind, self.colour, gloss, tint, self.grain, depth, code)
        for entry, faces in worn_by:
            if not whole:
                at.note(f"{plural(len(faces), 'face')} of {entry.name}.")
            at.wear(entry, faces, worn)

    def _worn_by(self, at: Builder) -> list[tuple[Entry, Sequence[int]]]:
        """The bodies with the faces that are meant, of one or of several."""
        if self.what == "all of":
            entry = at.target(self.body)
            return [(entry, range(entry.body.solid.face_count))]
        at.need_picks("on", "Click the faces in the view, or choose “all of” a body.")
        picked: dict[str, tuple[Entry, dict[int, None]]] = {}
        for index, pick in enumerate(self.on):
            entry, faces = at.resolved(pick, "on", index, whole=True)
            entry = at.target(entry.id, "on")
            picked.setdefault(entry.id, (entry, {}))[1].update(dict.fromkeys(faces))
        return [(entry, list(faces)) for entry, faces in picked.values()]

    def _share(self, at: Builder, field: str) -> float:
        share = at.ratio(field)
        if share > 1:
            at.fail(field, f"The {field} is at most 100 %, not {show(100 * share)} %.", "Type a smaller one.")
        return share
