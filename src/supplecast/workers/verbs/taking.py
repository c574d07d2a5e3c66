"""What was picked in the view, laid into the plane of a sketch."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from supplecast import kernel
from supplecast.errors import SuppleError
from supplecast.geometry import Frame
from supplecast.kernel.shapes.shape import Solid
from supplecast.naming import Body, FaceRef, reference_edge
from supplecast.sketch.acts.take import as_taken
from supplecast.wire import options
from supplecast.wire.results import TakenCurves
from supplecast.wire.task import Task
from supplecast.wire.verbs import TAKE
from supplecast.workers.opened import built_of
from supplecast.workers.registry import does
from supplecast.workers.verbs.picking import find, plain

_MANY = 300
"""Edges of a body beyond which only those in the plane itself are offered: more are in each other's way."""


def _to_snap_to(solid: Solid, frame: Frame) -> list[int]:
    indices = [index for index in range(solid.number_of_edges) if not solid.degenerate_edges[index]]
    if len(indices) <= _MANY:
        return indices
    return [index for index in indices if kernel.flatten.lies_in(solid, index, frame)][:_MANY]


def _rows(body: Body, name: str | None, edges: Sequence[int], frame: Frame) -> list[dict[str, Any]]:
    """Edges laid into a plane. Of several, what stands square on it is left out: there it is a point, and an end of others."""
    rows = []
    for index in dict.fromkeys(edges):
        try:
            curve = kernel.flatten.flattened(body.solid, index, frame)
        except SuppleError:
            if len(edges) == 1:
                raise
            continue
        edge = plain(reference_edge(body, index, name))
        rows.append({**as_taken(curve), "source": {"how": "edge", "edge": edge}})
    return rows


@does(TAKE)
def take(task: Task, asked: options.Take) -> TakenCurves:
    """Curves of edges, of all edges of a face, of a section or a silhouette."""
    _, built = built_of(task)
    sketch = built.state.sketches.get(asked.sketch)
    if sketch is None:
        raise SuppleError("The sketch's own plane could not be found.", "Mend the sketch first.")
    picked = asked.picked
    if picked.body not in built.state.bodies:
        raise SuppleError("The picked body is not there before this sketch.", "Pick another.")
    if asked.how == "all":
        body = built.state.bodies[picked.body].body
        return TakenCurves(_rows(body, picked.body, _to_snap_to(body.solid, sketch.frame), sketch.frame))
    if asked.how != "edge":
        lay = kernel.flatten.section if asked.how == "section" else kernel.flatten.silhouette
        source: dict[str, Any] = {"how": asked.how, "body": picked.body}
        solid = built.state.bodies[picked.body].body.solid
        return TakenCurves([{**as_taken(curve), "source": source} for curve in lay(solid, sketch.frame)])
    entry, reference, number = find(built, built.state.bodies, picked)
    solid, edges = entry.body.solid, [number]
    if isinstance(reference, FaceRef):
        edges = [e for e in solid.face_edges[number] if not solid.degenerate_edges[e]]
    rows = _rows(entry.body, reference.body, edges, sketch.frame)
    if not rows:
        raise SuppleError("Seen from there that face has no outline.", "Pick another face.")
    return TakenCurves(rows)
