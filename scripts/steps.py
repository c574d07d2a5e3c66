"""Every step of a part on the demo's back shell: its time against the bare kernel call, and against what a preview may take.

The bare call is the binding's own operation on the same shapes, made ready beforehand, its result checked and measured once
by the bindings' own means, as in `bare`; our step adds its guards, the names of its faces and its trace.

Long, since it is a list: one step after another.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from statistics import median
from typing import Any

from OCP.BRepAlgoAPI import (
    BRepAlgoAPI_Common,
    BRepAlgoAPI_Cut,
    BRepAlgoAPI_Defeaturing,
    BRepAlgoAPI_Fuse,
    BRepAlgoAPI_Splitter,
)
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_GTransform,
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFeat import BRepFeat_SplitShape
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepOffset import BRepOffset_MakeOffset, BRepOffset_Mode
from OCP.BRepOffsetAPI import (
    BRepOffsetAPI_DraftAngle,
    BRepOffsetAPI_MakeOffset,
    BRepOffsetAPI_MakePipeShell,
    BRepOffsetAPI_ThruSections,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.BRepProj import BRepProj_Projection
from OCP.GeomAbs import GeomAbs_JoinType
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_GTrsf, gp_Pln, gp_Pnt, gp_Trsf, gp_Vec
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopoDS import TopoDS

from scripts.bare import checked, shelled, volume
from supplecast import kernel
from supplecast.document.model import Document, read_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Memory, rebuild
from supplecast.document.state import State
from supplecast.geometry import Frame
from supplecast.kernel.shapes.shape import ShapeList
from supplecast.naming import EdgeRef, FaceRef, reference_edge, reference_face
from supplecast.sketch.letters import words

LIMIT, PREVIEW = 1.3, 0.5
CHECK = 0.15  # seconds for the check of a shell of up to 40 faces
TOO_QUICK = 0.025  # seconds: below that nobody waits, and the ratio speaks of little more than reading the step
_UP = gp_Dir(0, 0, 1)


def listed(*shapes: Any) -> Any:
    found = ShapeList()
    for shape in shapes:
        found.Append(shape)
    return found


def combined(maker: Any, target: Any, *tools: Any, simplify: bool = False) -> Any:
    maker.SetArguments(listed(target))
    maker.SetTools(listed(*tools))
    maker.SetNonDestructive(False)
    maker.SetUseOBB(True)
    maker.Build()
    if simplify:
        maker.SimplifyResult(True, True, 1e-9)
    return checked(maker.Shape())


def _disc(x: float, y: float, z: float, radius: float) -> Any:
    edge = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(x, y, z), _UP), radius)).Edge()
    return BRepBuilderAPI_MakeWire(edge).Wire()


def _bar(x: float, y: float, z: float, radius: float, height: float) -> Any:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(x, y, z), _UP), radius, height).Shape()


class Yard:
    """The shell with the faces and edges that the trials use."""

    def __init__(self, state: State) -> None:
        body = state.bodies["ext"].body
        self.body, self.shape = body, body.solid.shape
        self.crate, self.sheet = state.bodies["box"].body, state.bodies["wave"].body.solid
        (self.top,) = self.crate.faces_by_tag["box.end"]
        self.sides = [face for face, tags in enumerate(self.crate.tags) if "side" in tags[0] and "round" not in tags[0]]
        self.rim = self._face("ext.start")
        self.floor = self._face("ext.end")
        self.post = [face for face, tags in enumerate(body.tags) if tags[0].startswith("cax.")]
        self.edge = max(
            (e for e in range(body.solid.number_of_edges) if self.rim in body.solid.faces_at_edges[e]),
            key=lambda e: (kernel.edges.line(body.solid, e) is not None, abs(kernel.edges.middle(body.solid, e)[0]) < 1, -e),
        )

    def _face(self, tag: str) -> int:
        return self.body.faces_by_tag[tag][0]

    def face_pick(self, face: int) -> dict[str, Any]:
        return _written(reference_face(self.body, face))

    def crate_pick(self, face: int) -> dict[str, Any]:
        return _written(reference_face(self.crate, face))

    def edge_pick(self, edge: int) -> dict[str, Any]:
        return _written(reference_edge(self.body, edge))


def _written(reference: FaceRef | EdgeRef) -> dict[str, Any]:
    return reference.model_dump(mode="json", exclude_none=True, exclude_defaults=True)


Trial = tuple[dict[str, Any], Callable[[], Any]]


def trials(yard: Yard) -> dict[str, Trial]:
    """For each step its JSON, on sketches and bodies that `prepared` has laid ready, and the same by bare calls."""
    shape, solid = yard.shape, yard.body.solid
    beside = _bar(0, 0, -20, 6, 40)
    disc = BRepBuilderAPI_MakeFace(_disc(20, 0, -24.8, 4), True).Face()
    plane = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(3, 0, 0), gp_Dir(1, 0, 0)), -200, 200, -200, 200).Face()

    def prism() -> Any:
        return combined(BRepAlgoAPI_Fuse(), shape, BRepPrimAPI_MakePrism(disc, gp_Vec(0, 0, 9), True, True).Shape())

    def turned() -> Any:
        axis = gp_Ax1(gp_Pnt(20, 0, 0), gp_Dir(0, 1, 0))
        face = BRepBuilderAPI_MakeFace(_disc(26, 0, 0, 2), True).Face()
        return checked(BRepPrimAPI_MakeRevol(face, axis, 2.0, True).Shape())

    def moved() -> Any:
        motion = gp_Trsf()
        motion.SetTranslation(gp_Vec(5, 0, 0))
        return checked(BRepBuilderAPI_Transform(shape, motion, True).Shape())

    def mirrored() -> Any:
        motion = gp_Trsf()
        motion.SetMirror(gp_Ax2(gp_Pnt(80, 0, 0), gp_Dir(1, 0, 0)))
        return checked(BRepBuilderAPI_Transform(shape, motion, True).Shape())

    def scaled() -> Any:
        motion = gp_Trsf()
        motion.SetScale(gp_Pnt(0, 0, 0), 1.02)
        return checked(BRepBuilderAPI_Transform(shape, motion, True).Shape())

    def stretched() -> Any:
        motion = gp_GTrsf()
        motion.SetValue(1, 1, 1.1)
        # Of the crate: the kernel's own check comes down on the shell taken so, which a worker of its own survives.
        return checked(BRepBuilderAPI_GTransform(crate.shape, motion, True).Shape())

    def rounded() -> Any:
        maker = BRepFilletAPI_MakeFillet(shape)
        maker.Add(0.4, solid.nth_edge(yard.edge))
        return checked(maker.Shape())

    def bevelled() -> Any:
        maker = BRepFilletAPI_MakeChamfer(shape)
        maker.Add(0.4, solid.nth_edge(yard.edge))
        return checked(maker.Shape())

    def nudged() -> Any:
        """The kernel's own offset fails on this part: the layer under the rim, parted by the walls carried on, is fused."""
        around = [kernel.extent.carried_on(solid, face, 0.0, 3.0) for face in sorted(solid.neighbours[yard.rim])]
        rim = kernel.extent.carried_on(solid, yard.rim, 0.0, 3.0)
        layer = BRepPrimAPI_MakePrism(rim, gp_Vec(0, 0, 0.5)).Shape()
        about = 0.5 * kernel.measure.face_area(solid, yard.rim)
        pieces = combined(BRepAlgoAPI_Splitter(), layer, *around)
        ring = min(pieces, key=lambda piece: abs(volume(piece) - about))
        return combined(BRepAlgoAPI_Fuse(), shape, ring, simplify=True)

    def scored() -> Any:
        wires = BRepProj_Projection(_disc(-30, 10, 5, 3), solid.face(yard.floor), gp_Dir(0, 0, -1))
        maker = BRepFeat_SplitShape(shape)
        maker.Add(wires.Current(), solid.face(yard.floor))
        maker.Build()
        return checked(maker.Shape())

    def bare() -> Any:
        maker = BRepAlgoAPI_Defeaturing()
        maker.SetShape(shape)
        maker.AddFacesToRemove(listed(*(solid.face(f) for f in yard.post)))
        maker.Build()
        return checked(maker.Shape())

    def swept() -> Any:
        path = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Pnt(20, 0, -24.8), gp_Pnt(20, 0, -15.8)).Edge()).Wire()
        maker = BRepOffsetAPI_MakePipeShell(path)
        maker.Add(_disc(20, 0, -24.8, 4))
        maker.Build()
        maker.MakeSolid()
        return combined(BRepAlgoAPI_Fuse(), shape, maker.Shape())

    def lofted() -> Any:
        maker = BRepOffsetAPI_ThruSections(True, True)
        maker.AddWire(_disc(20, 0, -24.8, 4))
        maker.AddWire(_disc(20, 0, -15.8, 3))
        return combined(BRepAlgoAPI_Fuse(), shape, maker.Shape())

    def leant() -> Any:
        maker = BRepOffsetAPI_DraftAngle(crate.shape)
        for face in yard.sides:
            maker.Add(crate.face(face), _UP, math.radians(1.5), gp_Pln(gp_Pnt(0, 0, 0), _UP))
        return checked(maker.Shape())

    def lettered() -> Any:
        """The letters are made as the step makes them; joined by one boolean."""
        at, lean = Frame((0.0, 0.0, 85.0)), math.radians(5)
        letters = [kernel.solid.extrude(letter.region, at, 0.3, up=True, draft=lean) for letter in words("DUSK", "bold", 5.0)]
        return combined(BRepAlgoAPI_Fuse(), crate.shape, *(letter.solid.shape for letter in letters), simplify=True)

    def standing(web: Any, low: float) -> Any:
        """A web or post cut off where it meets the shell, and joined to it: the piece that begins at the web's top."""
        pieces = combined(BRepAlgoAPI_Cut(), web, shape)
        return combined(BRepAlgoAPI_Fuse(), shape, min(pieces, key=lambda piece: abs(volume(piece) - low)), simplify=True)

    def ribbed() -> Any:
        return standing(BRepPrimAPI_MakeBox(gp_Pnt(-14, -80, -90), gp_Pnt(-13, 80, -15)).Shape(), 590.0)

    def bossed() -> Any:
        return standing(_bar(-20, 12, -90, 3, 75), math.pi * 9 * 9.8)

    def lipped() -> Any:
        maker = BRepOffsetAPI_MakeOffset()
        maker.Init(GeomAbs_JoinType.GeomAbs_Arc, False)
        maker.AddWire(rim_at.inner)
        maker.Perform(0.5 * rim_at.wall, 0.0)
        face = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), _UP), TopoDS.Wire(maker.Shape()))
        face.Add(TopoDS.Wire(rim_at.inner.Reversed()))
        fixed = ShapeFix_Face(face.Face())
        fixed.FixOrientation()
        ring = BRepPrimAPI_MakePrism(fixed.Face(), gp_Vec(0, 0, 1.2)).Shape()
        return combined(BRepAlgoAPI_Fuse(), shape, ring, simplify=True)

    def surface(distance: float, thick: bool) -> Any:
        maker = BRepOffset_MakeOffset()
        sheet, sharp = yard.sheet.shape, GeomAbs_JoinType.GeomAbs_Intersection
        maker.Initialize(sheet, distance, 1e-4, BRepOffset_Mode.BRepOffset_Skin, False, False, sharp, thick)
        maker.MakeOffsetShape()
        return checked(maker.Shape())

    rim_at = kernel.lip.rim(solid, yard.rim)
    top = yard.face_pick(yard.rim)
    crate = yard.crate.solid
    ext = {"body": "ext"}
    bar = {**ext, "tools": ["bar"]}
    edges = [yard.edge_pick(yard.edge)]
    aside = {"plane": "side", "offset": "80"}

    def with_bar(maker: Callable[[], Any]) -> Callable[[], Any]:
        return lambda: combined(maker(), shape, beside)

    added = {**ext, "profile": {"sketch": "disc"}, "result": "add"}
    bored = {"of": "steps", "steps": ["nub"], **ext}
    disc_up = {"profile": {"sketch": "disc"}, "distance": "9 mm", "result": "add"}
    return {
        "extrude": ({"type": "extrude", **ext, **disc_up}, prism),
        "revolve": ({"type": "revolve", "profile": {"sketch": "ring"}, "axis": "y", "angle": "114.591559"}, turned),
        "hole": (
            {"type": "hole", **ext, "diameter": "2", "sketch": "row"},
            lambda: combined(BRepAlgoAPI_Cut(), shape, *(_bar(-50 + 5 * n, -12, -40, 1, 60) for n in range(8))),
        ),
        "rib": ({"type": "rib", **ext, "line": {"sketch": "web"}, "thickness": "1", "draft": "0"}, ribbed),
        "boss": (
            {
                "type": "boss",
                **ext,
                "sketch": "post",
                "level": {"plane": "top", "offset": "-15"},
                "draft": "0",
                "sized": "by diameters",
                "outer": "6",
                "pilot": "0",
            },
            bossed,
        ),
        "lip": ({"type": "lip", "rim": [top], "height": "1.2", "draft": "0"}, lipped),
        "sweep": ({"type": "sweep", **added, "path": {"sketch": "rise"}}, swept),
        "loft": ({"type": "loft", **ext, "result": "add", "over": [{"sketch": "disc"}, {"sketch": "less"}]}, lofted),
        "draft": ({"type": "draft", "faces": [yard.crate_pick(f) for f in yard.sides], "angle": "1.5"}, leant),
        "shell": ({"type": "shell", "wall": "2", "open": [yard.crate_pick(yard.top)]}, lambda: shelled(crate, [yard.top], 2)),
        "lettering": (
            {"type": "lettering", "text": "DUSK", "font": "bold", "height": "5 mm", "on": [yard.crate_pick(yard.top)]},
            lettered,
        ),
        "pattern": (
            {"type": "pattern", **bored, "count": 9, "spacing": "5"},
            lambda: combined(BRepAlgoAPI_Cut(), shape, *(_bar(-45 + 5 * n, 12, -40, 1, 60) for n in range(8))),
        ),
        "ring": (
            {"type": "ring", **bored, "count": 2},
            lambda: combined(BRepAlgoAPI_Cut(), shape, _bar(50, -12, -40, 1, 60)),
        ),
        "offset surface": ({"type": "offset surface", "of": "a surface", "surface": "wave"}, lambda: surface(2.0, False)),
        "thicken": ({"type": "thicken", "surface": "wave", "wall": "2"}, lambda: surface(2.0, True)),
        "split by surface": (
            {"type": "split body", **ext, "along": "a surface", "surface": "wave"},
            lambda: combined(BRepAlgoAPI_Splitter(), shape, yard.sheet.shape),
        ),
        "fillet": ({"type": "fillet", "edges": edges, "radius": "0.4"}, rounded),
        "chamfer": ({"type": "chamfer", "edges": edges, "distance": "0.4"}, bevelled),
        "nudge": ({"type": "nudge", "faces": [top], "distance": "0.5"}, nudged),
        "remove face": ({"type": "remove face", "faces": [yard.face_pick(f) for f in yard.post]}, bare),
        "score": ({"type": "score", "profile": {"sketch": "mark"}, "face": [yard.face_pick(yard.floor)]}, scored),
        "union": ({"type": "union", **bar}, with_bar(BRepAlgoAPI_Fuse)),
        "subtract": ({"type": "subtract", **bar}, with_bar(BRepAlgoAPI_Cut)),
        "intersect": ({"type": "intersect", **bar}, with_bar(BRepAlgoAPI_Common)),
        "split body": (
            {"type": "split body", **ext, "plane": {"plane": "side", "offset": "3"}},
            lambda: combined(BRepAlgoAPI_Splitter(), shape, plane),
        ),
        "move": ({"type": "move", **ext, "x": "5"}, moved),
        "mirror": ({"type": "mirror", **ext, "across": aside, "result": "as a new body"}, mirrored),
        "scale": ({"type": "scale", **ext, "factor": "1.02"}, scaled),
        "scale per axis": ({"type": "scale", "body": "box", "how": "per axis by", "x": "1.1"}, stretched),
    }


def prepared(document: Document) -> Document:
    """The shell without what is done to it last, and what the trials need beside it."""
    top = {"plane": "top"}
    crate = {"kind": "rectangle", "width": "60", "height": "40", "radius": "8"}
    spline = {"type": "spline", "through": ["a", "b", "c"], "first": "h", "last": "k"}
    rise = {"a": (20.0, -24.8), "b": (20.0, -15.8)}
    bow = {"a": (-90.0, -12.0), "b": (0.0, -6.0), "c": (90.0, -12.0), "h": (-60.0, -8.0), "k": (60.0, -8.0)}
    sheet = {"fill": "as a surface"}
    web = {"a": (-13.5, -5.0), "b": (-13.5, 5.0)}
    row = {"id": "row", "type": "sketch", "on": top, "points": {f"q{n}": (-50.0 + 5 * n, -12.0) for n in range(8)}}
    sketches = [
        {"id": "disc", "type": "sketch", "on": {**top, "offset": "-24.8"}, "draw": [_circle("8", "20")]},
        {"id": "ring", "type": "sketch", "on": {"plane": "front"}, "draw": [_circle("4", "6")]},
        {"id": "mark", "type": "sketch", "on": {**top, "offset": "5"}, "draw": [{**_circle("6", "-30"), "y": "10"}]},
        {"id": "bsk", "type": "sketch", "on": {**top, "offset": "-20"}, "draw": [_circle("12", "0")]},
        {"id": "bar", "type": "extrude", "profile": {"sketch": "bsk"}, "distance": "40"},
        {"id": "less", "type": "sketch", "on": {**top, "offset": "-15.8"}, "draw": [_circle("6", "20")]},
        {"id": "rise", "type": "sketch", "on": {"plane": "front"}, **_open({"type": "line", "a": "a", "b": "b"}, rise)},
        {"id": "web", "type": "sketch", "on": {**top, "offset": "-15"}, **_open({"type": "line", "a": "a", "b": "b"}, web)},
        {"id": "post", "type": "sketch", "on": {**top, "offset": "-15"}, "points": {"q": (-20.0, 12.0)}},
        {"id": "one", "type": "sketch", "on": top, "points": {"q": (-50.0, 12.0)}},
        {"id": "nub", "type": "hole", "body": "ext", "diameter": "2", "sketch": "one"},
        {"id": "plan", "type": "sketch", "on": {**top, "offset": "60"}, "draw": [crate]},
        {"id": "box", "type": "extrude", "profile": {"sketch": "plan"}, "distance": "25", "result": "new"},
        {"id": "bow", "type": "sketch", "on": {"plane": "front"}, **_open(spline, bow)},
        {"id": "wave", "type": "extrude", "profile": {"sketch": "bow"}, "distance": "160", "direction": "both ways", **sheet},
    ]
    whole = document.to_dict()
    last = next(n for n, step in enumerate(whole["steps"]) if step["type"] == "union")
    whole["steps"] = whole["steps"][: last + 1]
    return read_document({**whole, "steps": [*whole["steps"], row, *sketches]})


def _open(entity: dict[str, Any], points: dict[str, tuple[float, float]]) -> dict[str, Any]:
    return {"points": points, "entities": {"E": entity}}


def _circle(diameter: str, x: str) -> dict[str, Any]:
    return {"kind": "circle", "diameter": diameter, "x": x}


def main(back: Document, runs: int = 5) -> int:
    """Print one row a step; returns how many went over a limit."""
    base = prepared(back)
    project = Project({(base.id, None): base})
    memory = Memory()
    built = rebuild(base, memory, outside=project)
    assert built.ok, [o.message for o in built.outcomes]
    for entry in built.state.bodies.values():
        kernel.measure.mass(entry.body.solid)  # shown bodies are measured
    over = 0
    for name, (step, bare) in trials(Yard(built.state)).items():
        times: list[tuple[float, float]] = []
        for number in range(runs):
            trial = read_document({**base.to_dict(), "steps": [*base.to_dict()["steps"], {"id": f"x{number}", **step}]})
            ours = rebuild(trial, memory, outside=project).outcomes[-1]
            assert ours.status == "ok", (name, ours.message)
            began = time.perf_counter()
            bare()
            times.append((ours.ms / 1000, time.perf_counter() - began))
        mine, theirs = (median(row[i] for row in times) for i in (0, 1))
        ratio = median(a / b for a, b in times)
        allowed = ratio <= LIMIT or mine < TOO_QUICK
        if name == "shell":  # its check is worth a time of its own
            allowed = mine - theirs <= CHECK
        good = allowed and mine <= PREVIEW
        over += not good
        print(
            f"  {name:<18} {mine * 1000:8.1f} ms  bare {theirs * 1000:8.1f} ms  × {ratio:5.2f}  {'within' if good else 'OVER'}",
            flush=True,
        )
    return over


if __name__ == "__main__":
    from supplecast.document.step import load_steps
    from supplecast.web import demo

    load_steps()
    print(f"Steps on the back shell, limit × {LIMIT:g} and {math.floor(PREVIEW * 1000)} ms:")
    raise SystemExit(main(demo.documents()[0]))
