"""Parting line: which half of the mold forms each face of the part, and the line along which that changes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from supplecast import kernel, molding
from supplecast.document.builder import Builder
from supplecast.document.fields import BodyPick, Edges, Faces
from supplecast.document.state import Entry
from supplecast.document.step import Step
from supplecast.geometry import DIRECTIONS, Floats
from supplecast.naming import Body
from supplecast.steps.tool.marks import CAVITY, CORE, UNDERCUT
from supplecast.wording import plural, show

if TYPE_CHECKING:
    from supplecast.kernel.molds.parting import Side
    from supplecast.molding.judge import Pulled
    from supplecast.molding.undercut import Undercut

_NAMED = 3
_DOUBTFUL = 0.5  # mm² seen along the pull: smaller loops come of slivers


class PartingLine(Step):
    """The line that the draft of the part gives: faces seen along the pull are the core's, the others the cavity's, and faces
    that turn over are split where they do.

    Upright faces go with what they hang on. Faces picked for `core` or `cavity` go there; edges picked in `along` are made
    part of the line where faces beside them are upright. Undercut faces are kept apart for a side opening.
    Example: {"id": "pl3", "type": "parting line", "pull": "+z"}
    """

    type: Literal["parting line"] = "parting line"
    word = "Parting line"
    purpose = "where the halves meet on the part"
    search = "silhouette where the halves meet"
    follows = "shrink"
    picture = ("M6 6h20v12H6z", "M2 12h28")
    suits = ("faces", "edges")
    document_kinds = ("tool",)

    pull: Literal["+z", "-z", "+x", "-x", "+y", "-y"] = "+z"
    core: Faces = ()
    cavity: Faces = ()
    along: Edges = ()
    part: BodyPick = None

    def sentence(self) -> str:
        given = "; core side {core}" if self.core else ""
        given += "; cavity side {cavity}" if self.cavity else ""
        given += "; along {along}" if self.along else ""
        return f"Parting line of {{part}}, opening {{pull}}{given}"

    def more(self) -> str:
        idle = [
            (self.core, "also core side: {core}"),
            (self.cavity, "also cavity side: {cavity}"),
            (self.along, "along {along}"),
        ]
        return "; ".join(words for held, words in idle if not held)

    def build(self, at: Builder) -> None:
        entry = at.target(self.part, "part", roles=("linked", "part"))
        pull = DIRECTIONS[self.pull]
        given = self._given(at, entry)
        wanted = at.edges("along", entry) if self.along else []
        marks = [kernel.edges.middle(entry.body.solid, number) for number in wanted]
        made = at.kernel("pull", kernel.silhouette.split, entry.body.solid, pull)
        body = at.named(made, entry.body)
        fixed = {
            face: given[source.face]
            for face, row in enumerate(made.origins)
            for source in row[0].sources
            if isinstance(source, kernel.history.FaceOf) and source.face in given
        }
        judged = molding.judge.Pulled(molding.judge.skin_of(body.solid), pull)
        undercuts = self._undercuts(judged, fixed)
        inside = [one for one in undercuts if self._is_lifted(judged, one)]
        fixed |= {face: "core" if one in inside else "cavity" for one in undercuts for face in one.faces}
        border = [e for e in range(body.solid.number_of_edges) if any(kernel.edges.passes(body.solid, e, m) for m in marks)]
        sides = at.kernel("pull", kernel.parting.sides, body.solid, judged.drafts, given=fixed, wanted=border)
        loops = at.kernel("core", kernel.parting.loops, body.solid, sides.of, pull)
        at.lines(kernel.parting.drawn(body.solid, loops))
        self._tell(at, body, sides, loops, undercuts, inside, judged.drafts)
        at.replace(entry, self._marked(body, sides.of, undercuts), pull=pull)

    def _given(self, at: Builder, entry: Entry) -> dict[int, Side]:
        """The faces that were given to a half."""
        given: dict[int, Side] = dict.fromkeys(at.faces("core", entry), "core") if self.core else {}
        for face in at.faces("cavity", entry) if self.cavity else []:
            if face in given:
                at.fail("cavity", "A face is given to both halves.", "Unpick it in one of them.")
            given[face] = "cavity"
        return given

    def _undercuts(self, judged: Pulled, given: dict[int, Side]) -> list[Undercut]:
        """What is seen from neither side, but for faces that were given to a half."""
        return [one for one in judged.undercuts if not set(one.faces) <= given.keys()]

    def _is_lifted(self, judged: Pulled, one: Undercut) -> bool:
        """Whether an undercut lies inside: no slide frees it, and a lifter in the core does."""
        if one.slide is not None or one.closed:
            return False
        return molding.lifting.freed_by_lifter(judged.skin.solid, one.faces, judged.pull) is not None

    def _tell(
        self,
        at: Builder,
        body: Body,
        sides: kernel.parting.Sides,
        loops: list[kernel.parting.Loop],
        undercuts: list[Undercut],
        inside: list[Undercut],
        drafts: Floats,
    ) -> None:
        outer, inner = loops[0], loops[1:]
        heights = kernel.parting.heights(body.solid, outer, DIRECTIONS[self.pull])
        span = float(heights.max() - heights.min())
        shape = "level" if span < 1e-6 else f"stepped or bent over {at.in_unit(round(span, 3))} {at.scope.unit}"
        shut = f", {plural(len(inner), 'opening')} to shut off" if inner else ""
        at.note(f"Outer line of {plural(len(outer.edges), 'edge')}, {shape}{shut}.")
        at.figure("openings", len(inner))
        if sides.either:
            count = sum(len(group) for group in sides.either)
            where = sorted({sides.of[group[0]] for group in sides.either})
            stand = "stands" if count == 1 else "stand"
            at.caution(
                "core",
                f"{plural(count, 'face')} {stand} upright and could be formed by either half; now by the "
                f"{' and the '.join(where)}. Pick them under core side or cavity side to choose.",
            )
        else:
            # What a side opening forms leaves along its own way, which that step looks at.
            outside = len(undercuts) - len(inside)
            opened = at.ahead("side opening") >= outside
            aside = {face for one in undercuts if one.slide is not None for face in one.faces} if opened else set()
            upright = sum(
                abs(low) <= kernel.parting.UPRIGHT and abs(high) <= kernel.parting.UPRIGHT
                for face, (low, high) in enumerate(drafts.tolist())
                if face not in aside
            )
            if upright:
                stand = "stands" if upright == 1 else "stand"
                words = f"{plural(upright, 'face')} {stand} along the pull without draft"
                at.caution("pull", f"{words}: the tool scrapes there as it opens. Draft them on the part.")
        for loop in inner:
            size = kernel.parting.seen_area(body.solid, loop, DIRECTIONS[self.pull])
            if size < _DOUBTFUL:
                x, y, z = kernel.parting.Sampled(body.solid, loop).points.mean(axis=0)
                words = f"A loop of {size:.2f} mm² at ({x:.1f}, {y:.1f}, {z:.1f}) is doubtful"
                at.caution("core", f"{words}: give a face there to the other half, or simplify the part.")
        for one in undercuts[:_NAMED]:
            place = ", ".join(show(c, 2) for c in one.place)  # places are said in mm, and turned for who reads
            if one.closed:
                at.fail("pull", f"There is a closed hollow at ({place}).", "Open it on the part: no half can form it.")
            trouble = f"Undercut of {one.area:.1f} mm² at ({place})"
            if one in inside and at.ahead("lifters"):
                at.note(f"{trouble}, left to a lifter.")
            elif one in inside:
                at.caution("pull", f"{trouble} inside: a lifter can free it, after the mold base.")
            elif one.slide is None:
                at.caution("pull", f"{trouble}: neither a side opening nor a lifter frees it. Change the part there.")
            elif at.ahead("side opening") >= len(undercuts) - len(inside):
                at.note(f"{trouble}, left to a side opening.")
            else:
                at.caution("pull", f"{trouble}: a side opening can free it, after the halves.")

    def _marked(self, body: Body, of: tuple[Side, ...], undercuts: list[Undercut]) -> Body:
        """The body with a tag on every face that says who forms it, and on undercut ones which they belong to."""
        number = {face: k for k, one in enumerate(undercuts, 1) for face in one.faces}
        rows = []
        for face, tags in enumerate(body.tags):
            more = [f"{self.id}.{CORE if of[face] == 'core' else CAVITY}"]
            if face in number:
                more.append(f"{self.id}.{UNDERCUT}[{number[face]}]")
            rows.append((*tags, *more))
        return Body(body.solid, tuple(rows))
