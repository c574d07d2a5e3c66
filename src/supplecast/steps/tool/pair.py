"""What the steps after the split need to know of the two halves: where they part, and which way they open."""

from __future__ import annotations

from dataclasses import dataclass

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry
from supplecast.geometry import Frame, Vec, dot, times
from supplecast.naming.tag import in_role

PLANES = ("split", "plane")
"""The roles of the plane on which halves meet."""


@dataclass(frozen=True)
class Pair:
    """Both halves, the pull as unit vector and axis, and the height of the parting plane along it, mm."""

    cavity: Entry
    core: Entry
    pull: Vec
    axis: int
    parting: float

    @property
    def across(self) -> tuple[int, int]:
        a, b = (axis for axis in range(3) if axis != self.axis)
        return (a, b)

    @property
    def plane(self) -> Frame:
        """The parting plane, its normal along the pull."""
        return Frame.lying(times(self.pull, self.parting), self.pull)

    def on_parting(self, first: float, second: float) -> Vec:
        """A point of the parting plane by its two coordinates across the pull."""
        place = [0.0, 0.0, 0.0]
        place[self.across[0]], place[self.across[1]] = first, second
        place[self.axis] = self.parting * self.pull[self.axis]
        return (place[0], place[1], place[2])


def both(at: Builder) -> Pair:
    """The cavity and core half of the tool, both about to be changed."""
    if not {"cavity", "core"} <= {entry.role for entry in at.bodies()}:
        at.fail("core", "There are no halves yet.", "Add Halves, or Split, before this step.")
    cavity = at.target(None, "cavity", roles=("cavity",))
    core = at.target(None, "core", roles=("core",))
    pull = core.pull or (0.0, 0.0, 1.0)
    axis = max(range(3), key=lambda a: abs(pull[a]))
    faces = [face for face, tags in enumerate(core.body.tags) if in_role(tags, *PLANES)]
    if not faces:
        at.fail("core", "The core half has no parting plane left.", "Check the split before this step.")
    origin = kernel.measure.flat_frame(core.body.solid, faces[0]).origin
    return Pair(cavity, core, pull, axis, dot(origin, pull))


def core_stands(at: Builder, pair: Pair) -> float:
    """How far the highest core reaches over the parting plane, mm."""
    cores = [e.body.solid for e in at.bodies() if e.role in ("core", "core insert")]
    return max(0.0, *(pair.parting - kernel.measure.span(core, pair.pull)[0] for core in cores))
