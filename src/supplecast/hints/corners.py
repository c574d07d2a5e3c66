"""Hints on sharp inner corners, where stress gathers and the melt turns badly."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast import kernel
from supplecast.hints import Hint, Watched, rule
from supplecast.wording import show

_SHARE = 0.5  # inner radius as a share of the wall, from which stress hardly falls any more (common practice, no source)


@rule
def sharp_inner_corner(watched: Watched) -> Iterator[Hint]:
    """Edges between inner faces of a shell that are still sharp in the finished body."""
    for step, _ in watched.working("shell"):
        heads = (f"{step.id}.inner{{", f"{step.id}.inner[")
        for entry in watched.built.state.bodies.values():
            body = entry.body
            inner = {face for face, tags in enumerate(body.tags) if tags[0].startswith(heads)}
            sharp = [
                index
                for index, faces in enumerate(body.solid.faces_at_edges)
                if len(faces) == 2 and inner.issuperset(faces) and kernel.edges.bend(body.solid, index) == "concave"
            ]
            if not sharp:
                continue
            wall = watched.value(step, "wall", "length")
            if wall is None:
                continue
            radius = round(_SHARE * wall, 2)
            count = f"{len(sharp)} inner corners are" if len(sharp) > 1 else "An inner corner is"
            rules = [{"rule": "concave", "body": entry.id}, {"rule": "made by", "of": step.id, "body": entry.id}]
            values = {"edges": [{"rule": "and", "rules": rules, "body": entry.id}], "radius": f"{show(radius)} mm"}
            yield Hint(
                "sharp corner",
                step.id,
                f"{count} sharp: stress gathers there.",
                f"round them by {show(radius)} mm",
                {"op": "add", "type": "fillet", "after": step.id, "values": values},
            )
