"""Bodies of a tool at a place of its opening stroke, and what they share there by manifold3d."""

from __future__ import annotations

from itertools import combinations

from supplecast.document.rebuild import Built
from supplecast.molding import opening
from supplecast.steps.tool.stroke import stroke_of


def clashes(made: Built, shares: list[float], least: float = 4.0) -> list[tuple[float, str, str, float]]:
    """Which bodies share more than `least` mm³ (rounds that slide in each other do by their facets) at shares of the stroke."""
    stroke = stroke_of(list(made.state.bodies.values()))
    assert stroke is not None and stroke.stages[-1].until == 1
    bodies = [e for e in made.state.bodies.values() if e.id not in stroke.aside and e.is_solid]
    meshes = {e.id: opening.meshed(e.body.solid).manifold for e in bodies}
    found = []
    for share in shares:
        placed = {e.id: meshes[e.id].translate(stroke.off(e.id, share)) for e in bodies}
        boxes = {name: mesh.bounding_box() for name, mesh in placed.items()}
        for a, b in combinations(bodies, 2):
            p, q = boxes[a.id], boxes[b.id]
            if all(p[k] < q[k + 3] and q[k] < p[k + 3] for k in range(3)):
                volume = abs((placed[a.id] ^ placed[b.id]).volume())
                if volume > least:
                    found.append((share, a.name, b.name, volume))
    return found
