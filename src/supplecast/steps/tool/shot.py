"""Trial shot: the part with its feed, as it leaves the mold."""

from __future__ import annotations

from typing import Literal

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import PARTS
from supplecast.document.step import Step
from supplecast.molding.mass import grams
from supplecast.steps.tool.drops import feeds_ahead
from supplecast.wording import show


class TrialShot(Step):
    """Part and feed made one, at cavity size; the part itself stays.

    Example: {"id": "t8", "type": "trial shot"}
    """

    type: Literal["trial shot"] = "trial shot"
    word = "Trial shot"
    purpose = "the part with its feed"
    search = "trial molded casting part with feed"
    follows = "vents"
    picture = ("M5 14h22v7H5z", "M13 3h6l-2 11h-2z")
    document_kinds = ("tool",)

    def sentence(self) -> str:
        return "Trial shot"

    def build(self, at: Builder) -> None:
        parts = [entry for entry in at.bodies() if entry.role in PARTS]
        if not parts:
            at.fail("part", "There is no part yet.", "Link a part first.")
        feeds = [entry for entry in at.bodies() if entry.role == "feed"]
        if not feeds:
            if feeds_ahead(at):
                at.fail("feed", "The feed is made below this step.", "Move this step below it.")
            at.fail("feed", "There is no feed yet.", "Add a feed before the trial shot.")
        solids = [feed.body.solid for feed in feeds]
        joined = [*solids, *(part.body.solid for part in parts[1:])]
        made = at.kernel("feed", kernel.boolean.fuse, parts[0].body.solid, joined, simplify=False)
        # Parts and feed meet in the gates' ends without sharing space, so that nothing need be integrated anew.
        feed = sum(kernel.measure.volume(s) for s in solids)
        volume = feed + sum(kernel.measure.volume(part.body.solid) for part in parts)
        waste = feed / volume
        mass = grams(volume, at.material)
        at.figure("shot_mm3", volume)
        at.note(f"{volume / 1000:.1f} cm³ with its feed, {mass:.1f} g; the feed is {show(waste * 100, 1)} % of it.")
        at.new(at.named(made, parts[0].body, *(e.body for e in (*feeds, *parts[1:]))), "shot", "Trial shot", pull=feeds[0].pull)
