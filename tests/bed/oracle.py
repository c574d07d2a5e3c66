"""What a pick must lead to after an edit, judged by witness points and sizes, and the tally of many such verdicts."""

from __future__ import annotations

import math
import random
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any, Literal

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.gp import gp_Pnt

from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.rebuild import Memory, rebuild
from supplecast.kernel import measure
from supplecast.kernel.shapes.shape import Solid
from supplecast.naming import (
    STOPPING,
    Body,
    EdgeRef,
    FaceRef,
    Resolution,
    reference_edge,
    reference_face,
    resolve_edges,
    resolve_faces,
)
from tests.conftest import part

Point = tuple[float, float, float]
Parameters = dict[str, Any]
ON, NEAR_SIZE = 2e-4, 2e-3


@dataclass(frozen=True)
class Target:
    """A face or edge: points that lie on it, points that must not, and its area or length where a formula gives it."""

    kind: Literal["face", "edge"]
    on: tuple[Point, ...]
    off: tuple[Point, ...] = ()
    size: float | None = None


def face(*on: Point, off: tuple[Point, ...] = (), size: float | None = None) -> Target:
    return Target("face", on, off, size)


def edge(*on: Point, off: tuple[Point, ...] = (), size: float | None = None) -> Target:
    return Target("edge", on, off, size)


def ring(centre: Point, radius: float, axis: str = "z", turns: tuple[float, ...] = (0.1, 0.4, 0.7)) -> tuple[Point, ...]:
    """Points on a circle about an axis."""
    a, b = {"z": (0, 1), "y": (0, 2), "x": (1, 2)}[axis]
    points = []
    for turn in turns:
        p = list(centre)
        p[a] += radius * math.cos(2 * math.pi * turn)
        p[b] += radius * math.sin(2 * math.pi * turn)
        points.append((p[0], p[1], p[2]))
    return tuple(points)


@dataclass
class Bed:
    """A part: its parameters with the values each may take (the first is the base), its steps, and its 15 targets."""

    name: str
    choices: dict[str, tuple[Any, ...]]
    steps: Callable[[Parameters], list[dict[str, Any]]]
    targets: Callable[[Parameters], dict[str, Target | None]]
    body: str
    alter: Callable[[Document, Parameters], Document] = lambda document, p: document
    allowed: Callable[[Parameters], bool] = lambda p: True
    values: dict[str, str] = field(default_factory=dict)

    @property
    def base(self) -> Parameters:
        return {name: values[0] for name, values in self.choices.items()}

    def document(self, p: Parameters) -> Document:
        return self.alter(part(self.steps(p)), p)

    def edits(self, count: int, seed: int) -> Iterator[Parameters]:
        """Random edits of the base: one to three parameters changed."""
        rng = random.Random(seed)
        made = 0
        while made < count:
            p = self.base
            for name in rng.sample(sorted(self.choices), rng.choice([1, 1, 2, 3])):
                p[name] = rng.choice(self.choices[name])
            if p != self.base and self.allowed(p):
                made += 1
                yield p


def distance(solid: Solid, kind: str, items: tuple[int, ...], point: Point) -> float:
    vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(*point)).Vertex()
    shapes = [solid.face(i) if kind == "face" else solid.nth_edge(i) for i in items]
    return min((float(BRepExtrema_DistShapeShape(vertex, shape).Value()) for shape in shapes), default=math.inf)


def size(solid: Solid, kind: str, items: tuple[int, ...]) -> float:
    if kind == "face":
        return sum(measure.face_area(solid, i) for i in items)
    return sum(float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(solid.nth_edge(i)))) for i in items)


def found_by_points(solid: Solid, target: Target) -> int:
    """The one face or edge on which all witness points lie."""
    count = solid.face_count if target.kind == "face" else solid.number_of_edges
    skip = solid.degenerate_edges if target.kind == "edge" else [False] * count
    found = [i for i in range(count) if not skip[i] and all(distance(solid, target.kind, (i,), p) < ON for p in target.on)]
    assert len(found) == 1, (target, found)
    return found[0]


def by_name(body: Body, reference: FaceRef | EdgeRef) -> Resolution:
    return resolve_faces(body, reference) if isinstance(reference, FaceRef) else resolve_edges(body, reference)


def verdict(body: Body, result: Resolution, target: Target | None) -> str:
    """How a pick fared against what is true now; `target` None means that what was picked is gone."""
    silent = result.status in ("ok", "ordered")
    if target is None:
        return "SILENT WRONG" if silent else "lost, rightly" if result.status in STOPPING else "flagged, wrong"
    if result.status in STOPPING:
        return "lost, though there"
    right = all(distance(body.solid, target.kind, result.items, p) < ON for p in target.on)
    right = right and all(distance(body.solid, target.kind, result.items, p) > ON for p in target.off)
    if right and target.size is not None:
        right = abs(size(body.solid, target.kind, result.items) - target.size) <= NEAR_SIZE * target.size
    if silent:
        return "right" if right else "SILENT WRONG"
    return "flagged, right" if right else "flagged, wrong"


Resolver = Callable[[Body, FaceRef | EdgeRef], Resolution]


def run(bed: Bed, edits: int, seed: int, resolver: Resolver = by_name) -> tuple[Counter[str], list[str]]:
    """Pick every target on the base, make the edits, judge every pick after each: the tally, and what was not right."""
    memory = Memory()

    def build(p: Parameters) -> Body:
        document = bed.document(p)
        built = rebuild(document, memory, outside=Project({(document.id, None): document}))
        assert built.ok, (bed.name, p, [(o.step, o.message) for o in built.outcomes if o.status != "ok"])
        return built.state.bodies[bed.body].body

    start = build(bed.base)
    references: dict[str, FaceRef | EdgeRef] = {}
    for name, target in bed.targets(bed.base).items():
        assert target is not None, name
        item = found_by_points(start.solid, target)
        references[name] = reference_face(start, item) if target.kind == "face" else reference_edge(start, item)
    tally: Counter[str] = Counter()
    wrongs = []
    for p in bed.edits(edits, seed):
        now = build(p)
        for name, target in bed.targets(p).items():
            result = resolver(now, references[name])
            word = verdict(now, result, target)
            tally[word] += 1
            if word in ("SILENT WRONG", "flagged, wrong", "lost, though there"):
                changed = {k: v for k, v in p.items() if v != bed.base[k]}
                wrongs.append(f"{word}: {bed.name}, {name}, {changed}, {result.status}: {references[name]}")
        tally["edits"] += 1
    return tally, wrongs
