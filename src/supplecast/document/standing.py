"""What ribs and bosses have in common: they stand on the body that is there, rounded at the root, and are held to its wall."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.fields import Angle, LengthFromZero
from supplecast.document.shaping import Shaping
from supplecast.document.state import Entry
from supplecast.document.step import Before
from supplecast.geometry import Vec, along, times
from supplecast.naming import Body
from supplecast.naming.tag import maker, role
from supplecast.tooling.resins import RESINS

_ALIKE = 1e-6
_INTO = 1e-4  # mm into the body, so that a ray does not begin on its skin
USUAL_RIB = 0.6  # most of the wall that a rib's root may be, where the resin is not known (common practice, no source)


class Standing(Shaping):
    """A step that adds what stands on a body. `draft` widens it towards its foot; `root` rounds where it meets the body."""

    result: Literal["add"] = "add"
    draft: Angle = "0.5"
    root: LengthFromZero = "0 mm"

    @classmethod
    def leaning(cls, before: Before) -> dict[str, Any]:
        """The draft of a new one, where resin and texture ask for more than is usual."""
        usual = float(cls.model_fields["draft"].default)
        return {"draft": f"{before.draft:g}"} if before.draft > usual else {}

    def stand(self, at: Builder, pieces: Sequence[Body], field: str, flanks: Sequence[str], bores: Sequence[Body] = ()) -> None:
        """Join `pieces`, settled on the body already, to it, round the edges along which their `flanks`, faces in these roles,
        stand on it, and cut the `bores`.
        """
        first, *others = self.targets(at)
        joined = [*pieces, *(entry.body for entry in others)]
        made = at.kernel(field, kernel.boolean.fuse, first.body.solid, [body.solid for body in joined])
        whole = at.named(made, first.body, *joined)
        radius = at.mm("root")
        if radius > 0:
            added = [face for face, tags in enumerate(whole.tags) if maker(tags[0]) == self.id]
            mine = [face for face in added if role(whole.tags[face][0]) in flanks]
            edges = kernel.attached_features.root_edges(whole.solid, mine, added)
            whole = at.named(at.kernel("root", kernel.blend.fillet, whole.solid, edges, radius), whole)
        if bores:
            (cut,) = at.kernel(field, kernel.boolean.cut, whole.solid, [bore.solid for bore in bores])
            whole = at.named(cut, whole, *bores)
        at.replace(first, whole)
        for entry in others:
            at.remove(entry)
        at.did("add", first, pieces, bores)

    def wall_under(self, entry: Entry, piece: kernel.history.Made, down: Vec) -> tuple[Vec, float] | None:
        """The middle of the largest face on which a piece stands, and the wall there, mm, measured along `down`."""
        feet = [face for face, row in enumerate(piece.origins) if row and row[0].role == "foot"]
        level = [face for face in feet if _faces(piece.solid, face, times(down, -1.0))]
        if not level:
            return None
        foot = max(level, key=lambda face: kernel.measure.face_area(piece.solid, face))
        spot = kernel.measure.point_inside(piece.solid, foot)
        if spot is None:
            return None
        wall = kernel.probing.first_hit(entry.body.solid, along(spot, down, _INTO), down)
        return None if wall is None else (spot, wall + _INTO)

    def held_to_wall(self, at: Builder, root: float, wall: float, what: str = "") -> None:
        """Show what share of the wall a root is, against the resin's rule."""
        most = at.material.rib if at.resin in RESINS else USUAL_RIB
        share = root / wall
        for name, value in (("root", root), ("wall", wall), ("most", most)):
            at.figure(name, value)
        over = "" if share <= most + _ALIKE else f", over {most:.0%}"
        at.reading(f"{what}{share:.0%} of the {at.in_unit(round(wall, 3))} wall{over}", share - _ALIKE, most)


def _faces(solid: kernel.shape.Solid, face: int, direction: Vec) -> bool:
    """Whether a foot looks down on the body: against the piece's own normal there, which points into the body."""
    spot = kernel.measure.point_inside(solid, face)
    if spot is None:
        return False
    _, normal = kernel.datums.normal_at(solid, face, spot)
    return -sum(a * b for a, b in zip(normal, direction, strict=True)) > 0.5
