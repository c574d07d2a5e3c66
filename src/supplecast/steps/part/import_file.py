"""Import: solids read from a STEP, 3MF or STL file."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import StringConstraints

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import FileName
from supplecast.document.step import Step
from supplecast.naming.body import Body
from supplecast.naming.imported import by_place


class Import(Step):
    """Bodies from a STEP file, or from a simple mesh (3MF, STL), kept beside the document under its SHA-256.

    Their faces are named by where they lie, which holds less well through changes of the file than names by history. Healed,
    faces that are nearly plain forms become such, and parts of one face are joined.
    Example: {"id": "m1", "type": "import", "file": "insert.step", "asset": "9f86d0…"}
    """

    type: Literal["import"] = "import"
    word = "Import"
    purpose = "bodies from a STEP, 3MF or STL file"
    search = "open load step stl 3mf file bring"
    follows = "ring"
    picture = ("M4 14v7h24v-7", "M16 3v12m-5-5l5 5 5-5")

    file: FileName
    asset: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]

    taken: Literal["as filed", "healed"] = "as filed"

    def sentence(self) -> str:
        return "Import {file} {taken}"

    def build(self, at: Builder) -> None:
        content = at.asset("file", self.asset, self.file)
        bodies = at.kernel("file", kernel.step_files.read_bodies, content)
        at.note("Its faces are known by where they lie, which holds less well through changes than how they were made.")
        # Names are by the faces as the file has them: so they stay what they were before forms were recognised.
        filed = [by_place(one.solid, self.id) for one in bodies]
        if self.taken == "healed":
            made = [at.named(kernel.heal.healed(body.solid), body) for body in filed]
            free, kept = (sum(_free(body) for body in some) for some in (filed, made))
            joined = sum(before.solid.face_count - after.solid.face_count for before, after in zip(filed, made, strict=True))
            at.note(f"Healed: free faces that are plain forms now: {free - kept}; left free: {kept}; joined: {joined}.")
        else:
            made = [Body(kernel.recognise.with_forms(body.solid), body.tags) for body in filed]
            free = sum(_free(body) for body in made)
            if free:
                at.note(f"Faces of free form: {free}. Taken healed, those that are nearly plain forms become such.")
        loose = max(kernel.edges.looseness(body.solid) for body in made)
        if loose > kernel.edges.LOOSE:
            off = f"{at.in_unit(round(loose, 4))} {at.scope.unit}"
            more = "" if self.taken == "healed" else " Taken healed, what can be mended is."
            at.note(f"Its faces do not quite meet: edges lie up to {off} off them. Rounds and shells may fail there.{more}")
        for number, (one, body) in enumerate(zip(bodies, made, strict=True), 1):
            at.new(body, "part", one.name, str(number) if len(bodies) > 1 else "", group=one.group)


def _free(body: Body) -> int:
    return sum(kernel.measure.surface_word(body.solid, face) == "free" for face in range(body.solid.face_count))
