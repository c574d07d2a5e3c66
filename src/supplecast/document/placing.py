"""Where a plane, an axis or a point lies that a step names: on the document, on a datum, in a sketch, on a body."""

from __future__ import annotations

from supplecast import kernel
from supplecast.curves import Arc2, Circle2, Line2
from supplecast.document.builder import Builder
from supplecast.document.fields import AxisPick, PlanePick, Spot
from supplecast.geometry import STANDARD_AXES, STANDARD_PLANES, Axis, Frame, Vec, subtract, unit
from supplecast.naming import Body, EdgeRef, FaceRef


def plane(at: Builder, field: str, pick: PlanePick) -> Frame:
    """The plane of a pick, moved and tilted as it says."""
    offset = at.length(f"{field}.offset", pick.offset, "any") if pick.offset != "0" else 0.0
    tilt = at.evaluate(f"{field}.tilt", pick.tilt, "angle") if pick.tilt != "0" else 0.0
    return base(at, field, pick).shifted(offset).tilted(tilt, pick.about)


def base(at: Builder, field: str, pick: PlanePick) -> Frame:
    """The plane of a pick before it is moved and tilted."""
    if pick.plane is not None:
        return STANDARD_PLANES[pick.plane]
    if pick.datum is not None:
        return _datum(at, field, pick.datum, "plane")
    entry, faces = at.resolved(pick.reference(), field, whole=True)
    flat = kernel.measure.flat_frame
    frames = {at.kernel(field, flat, entry.body.solid, face).rounded() for face in faces}
    # A flat face that has come apart still is one plane.
    if len(frames) > 1:
        at.fail(field, f"The picked face has come apart into {len(faces)} that do not lie in one plane.", "Pick again.")
    return at.kernel(field, flat, entry.body.solid, faces[0])


def _datum(at: Builder, field: str, datum_id: str, kind: str) -> Frame:
    datum = at.datum(datum_id, field)
    if datum.kind != kind:
        at.fail(field, f"“{datum.name}” is a datum {datum.kind}, not a {kind}.", f"Pick a datum {kind}.")
    return datum.frame


def axis(at: Builder, field: str, pick: AxisPick) -> Axis:
    """The axis of a pick."""
    if pick.axis is not None:
        return STANDARD_AXES[pick.axis]
    if pick.datum is not None:
        frame = _datum(at, field, pick.datum, "axis")
        return Axis(frame.origin, frame.normal)
    if pick.sketch is not None:
        return _line(at, field, pick)
    if pick.edge is not None:
        entry, line = at.one_edge(_edge(pick), field)
        return at.kernel(field, kernel.datums.edge_axis, entry.body.solid, line)
    entry, face = at.face(_face(pick), field)
    return at.kernel(field, kernel.datums.face_axis, entry.body.solid, face)


def _line(at: Builder, field: str, pick: AxisPick) -> Axis:
    """A straight line of a sketch, drawn or construction, or the sketch's own x or y."""
    sketch = at.sketch(pick.sketch or "", field)
    frame = sketch.frame
    if pick.line in ("x", "y"):
        return Axis(frame.origin, frame.x if pick.line == "x" else frame.y)
    line = next((c for c in (*sketch.curves, *sketch.guides) if c.entity == pick.line), None)
    if not isinstance(line, Line2):
        at.fail(field, f"“{sketch.name}” has no straight line {pick.line} any more.", "Pick another line.")
    a, b = frame.point(line.a), frame.point(line.b)
    return Axis(a, unit(subtract(b, a)))


def spot(at: Builder, field: str, pick: Spot, index: int = 0) -> Vec:
    """The point of a pick, number `index` of its field."""
    if pick.origin:
        return (0.0, 0.0, 0.0)
    if pick.datum is not None:
        return _datum(at, field, pick.datum, "point").origin
    if pick.sketch is not None:
        sketch = at.sketch(pick.sketch, field)
        marks = {**{c.entity: c.centre for c in sketch.curves if isinstance(c, (Circle2, Arc2))}, **sketch.marks}
        if pick.point not in marks:
            at.fail(field, f"“{sketch.name}” has no point {pick.point} any more.", "Pick another.")
        return sketch.frame.point(marks[pick.point])
    if pick.edge is not None:
        if pick.at == "along":
            return along(at, field, pick, index)[0]
        entry, line = at.one_edge(_edge(pick), field, index)
        return at.kernel(field, kernel.datums.centre, entry.body.solid, line)
    entry, face = at.face(_face(pick), field, index)
    return kernel.measure.face_middle(entry.body.solid, face)


def along(at: Builder, field: str, pick: Spot, index: int = 0) -> tuple[Vec, Vec]:
    """A place along an edge and the edge's direction there."""
    share = at.evaluate(field, pick.share, "factor")
    if not 0 <= share <= 1:
        at.fail(field, f"{share * 100:g} % is not on the edge.", "Type a share from 0 % to 100 % of its length.")
    entry, line = at.one_edge(_edge(pick), field, index)
    return at.kernel(field, kernel.datums.along_edge, entry.body.solid, line, share, left_face(entry.body, line, _edge(pick)))


def left_face(body: Body, line: int, picked: EdgeRef) -> int:
    """The face on whose left an edge is run along: the same one after every rebuild."""
    faces = body.solid.faces_at_edges[line]
    first = min(picked.edge)
    return next((face for face in faces if first in body.tags[face]), faces[0])


def _edge(pick: AxisPick | Spot) -> EdgeRef:
    reference = pick.reference()
    assert isinstance(reference, EdgeRef)
    return reference


def _face(pick: AxisPick | Spot) -> FaceRef:
    reference = pick.reference()
    assert isinstance(reference, FaceRef)
    return reference
