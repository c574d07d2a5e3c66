"""What a feed puts between cavity and clamping plate: the plate of a manifold, or the one that runners lie on."""

from __future__ import annotations

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.geometry import Point2
from supplecast.steps.tool.drops import cavity_back
from supplecast.steps.tool.lying import Lying
from supplecast.tooling.base.mouth import Inlet
from supplecast.tooling.base.stack import Plate
from supplecast.tooling.base.third import Third

MANIFOLD, MANIFOLD_PLATE, RUNNER_PLATE, NOZZLE = "Manifold", "Manifold plate", "Runner plate", "Hot nozzle"
"""What they are ordered as."""
DROP = "drop "
"""The label of what comes down from a runner, with its number."""
INLET = "inlet"
"""The label of the bore by which what is hot is fed."""
_PLATES = (MANIFOLD_PLATE, RUNNER_PLATE)


def between(at: Builder) -> Entry | None:
    """The plate between cavity and clamping plate, if a feed has made one."""
    return next((e for e in at.bodies() if e.stock and e.stock.kind in _PLATES), None)


def plate_behind(lying: Lying, name: str, thick: float) -> Plate:
    """A plate so thick behind the cavity plate, as long and wide as that."""
    box = kernel.measure.corner_box(lying.pair.cavity.body.solid)
    u, v, back = box.size[lying.long] / 2, box.size[lying.short] / 2, cavity_back(lying.pair)
    return Plate("between", name, "fixed", (-u, -v, back - thick), (u, v, back))


def none_yet(at: Builder, field: str) -> None:
    """Refuse a second feed that comes down through the cavity side, and one in a mold base that is there already."""
    if any(e.stock and e.stock.kind in (*_PLATES, NOZZLE) for e in at.bodies()):
        at.fail(field, "The parts are fed from behind the cavity plate already.", "Take one of the two feeds out.")
    cold = next((e for e in at.bodies() if e.role == "feed"), None)
    if cold is not None:
        at.caution(field, f"The parts are filled by “{cold.name}” already, and two feeds share them. Take one of the two out.")
    if any(e.stock and e.stock.kind == "Support plate" for e in at.bodies()):
        words = "The mold base is made above this step, and what feeds the parts needs room in it"
        at.fail(field, f"{words}.", "Move this step above the mold base.")


def inlet(at: Builder, lying: Lying) -> Inlet | None:
    """Where what is hot is fed; None where nothing is."""
    for entry in at.bodies():
        if entry.stock is None or entry.stock.kind not in (MANIFOLD, NOZZLE):
            continue
        faces = [face for face, tags in enumerate(entry.body.tags) if any(f"[{INLET}]" in tag for tag in tags)]
        boxes = [kernel.measure.face_box(entry.body.solid, face) for face in faces]
        if boxes:
            box = max(boxes, key=lambda b: b.size[lying.pair.axis])
            level = lying.levels(kernel.measure.corner_box(entry.body.solid))[0]
            return Inlet(lying.flat(box.centre), level, box.size[lying.long] / 2)
    return None


def third(at: Builder, lying: Lying) -> Third | None:
    """The runners behind the cavity plate; None where there are none."""
    plate = between(at)
    if plate is None or plate.stock is None or plate.stock.kind != RUNNER_PLATE:
        return None
    feed = next(e for e in at.bodies() if e.role == "feed" and any(f"[{DROP}" in tag for tags in e.body.tags for tag in tags))
    found: dict[str, tuple[Point2, float]] = {}
    for face, tags in enumerate(feed.body.tags):
        label = next((tag.rpartition("[")[2] for tag in tags if f"[{DROP}" in tag), None)
        if label:
            box = kernel.measure.face_box(feed.body.solid, face)
            found[label] = (lying.flat(box.centre), box.size[lying.long])
    return Third(lying.levels(kernel.measure.loose_box(feed.body.solid))[1] - cavity_back(lying.pair), list(found.values()))
