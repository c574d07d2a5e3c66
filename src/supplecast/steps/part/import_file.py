"""Import: bodies read from a STEP, 3MF, STL or OBJ file."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import StringConstraints

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import FileName
from supplecast.document.step import Step
from supplecast.expressions import LENGTH_UNITS
from supplecast.naming.body import Body
from supplecast.naming.imported import by_place
from supplecast.wording import brief, plural

_EXACT = 1e-5  # mm: numbers of 32 bits are no better


class Import(Step):
    """Bodies from a STEP file, or from triangles (3MF, STL, OBJ), kept beside the document under its SHA-256.

    Their faces are named by where they lie, which holds less well through changes of the file than names by history. Healed,
    faces that are nearly plain forms become such, and parts of one face are joined; of triangles, a solid is made whose faces
    are the flats and rounds that they lie on. As a mesh, triangles stay what they are, mended where that needs no guessing: it
    can be moved, linked, cut by planes, measured, compared and used as a tool. STL and OBJ know no `unit`; they are given one.
    Example: {"id": "m1", "type": "import", "file": "insert.step", "asset": "9f86d0…"}
    """

    type: Literal["import"] = "import"
    word = "Import"
    purpose = "bodies from a STEP, 3MF, STL or OBJ file"
    search = "open load step stl 3mf obj mesh scan triangles file bring"
    follows = "ring"
    picture = ("M4 14v7h24v-7", "M16 3v12m-5-5l5 5 5-5")

    file: FileName
    asset: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]

    taken: Literal["as filed", "healed", "as mesh"] = "as filed"
    unit: Literal["mm", "cm", "m", "in"] = "mm"

    def sentence(self) -> str:
        unitless = self.file.lower().endswith((".stl", ".obj"))
        return "Import {file} {taken}" + (", its numbers in {unit}" if unitless else "")

    def build(self, at: Builder) -> None:
        content = at.asset("file", self.asset, self.file)
        scale = LENGTH_UNITS[self.unit]
        at.note("Its faces are known by where they lie, which holds less well through changes than how they were made.")
        if self.taken == "as mesh":
            self._meshes(at, content, scale)
        elif self.taken == "healed" and not kernel.step_files.is_step(content):
            self._explained(at, content, scale)
        else:
            self._solids(at, at.kernel("file", kernel.step_files.read_bodies, content, scale))

    def _solids(self, at: Builder, bodies: list[kernel.step_files.Filed]) -> None:
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
            at.new(body, "part", self._called(one.name), str(number) if len(bodies) > 1 else "", group=one.group)

    def _meshes(self, at: Builder, content: bytes, scale: float) -> None:
        if kernel.step_files.is_step(content):
            at.fail("taken", "A STEP file holds exact shapes, not triangles.", "Take it as filed, or healed.")
        meshes = at.kernel("file", kernel.facets.read_meshes, content, scale)
        for number, one in enumerate(meshes, 1):
            mesh = at.kernel("file", kernel.mending.mended, one.points, one.triangles)
            body = by_place(kernel.regions.as_body(mesh.points, mesh.triangles, mesh.tight), self.id)
            name = f"{one.name}: " if len(meshes) > 1 else ""
            at.note(f"{name}{plural(len(mesh.triangles), 'triangle')} in {plural(body.solid.face_count, 'face')}.")
            if mesh.done:
                at.note(f"{name}Mended: {', '.join(mesh.done)}.")
            if mesh.left:
                at.caution("taken", f"{name}Not mended: {', '.join(mesh.left)}. So it has no volume and cannot be a tool.")
            at.new(body, "mesh", self._called(one.name), str(number) if len(meshes) > 1 else "")

    def _explained(self, at: Builder, content: bytes, scale: float) -> None:
        """Solids of the flats and rounds that triangles lie on."""
        meshes = at.kernel("file", kernel.facets.read_meshes, content, scale)
        for number, one in enumerate(meshes, 1):
            mesh = at.kernel("file", kernel.mending.mended, one.points, one.triangles)
            made = at.kernel(
                "taken", kernel.explained.as_solid, kernel.regions.as_body(mesh.points, mesh.triangles, mesh.tight)
            )
            body = by_place(made.solid, self.id)
            off = f"off by up to {brief(made.off, 2)} mm" if made.off > _EXACT else "exactly"
            at.note(f"{plural(len(mesh.triangles), 'triangle')} explained by {made.words}, {off}.")
            at.new(body, "part", self._called(one.name), str(number) if len(meshes) > 1 else "")

    def _called(self, name: str) -> str:
        """What a mesh is called: files that name none lend it their own."""
        return name if name != "Mesh" else self.file.rsplit(".", 1)[0].strip()[:80] or name


def _free(body: Body) -> int:
    return sum(kernel.measure.surface_word(body.solid, face) == "free" for face in range(body.solid.face_count))
