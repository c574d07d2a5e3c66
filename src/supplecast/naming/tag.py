"""The grammar of tags, the names that faces carry: which step made one, in what role, and from what.

    tag = maker "." role ["[" entity "]"] ["{" source {"|" source} "}"] {"[" label "]"}

A face that wears a finish or a print carries a mark in the same grammar, `fi1.coat`: it goes wherever the face goes and is no
name, so that what something looks like never changes how it is found.

`p81.side[L2]`: the side that step p81 made over the sketch's line L2 · `b07.inner{p81.start}`: the inside that b07 made of the
start face of p81 · `w2c.blend{p81.side[L1]|p81.side[L2]}`: the round of the edge between two sides. A body's id begins with its
maker too: `p5.core`.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

ROLES = {
    "aside": "offset",
    "back": "back",
    "beside": "side of the move",
    "blend": "round",
    "bottom": "bottom",
    "bridge": "bridge",
    "catch": "catch",
    "cavity side": "cavity side",
    "copy": "copy",
    "clear": "clearance",
    "coat": "finish",
    "core side": "core side",
    "corner": "corner round",
    "edge": "edge",
    "end": "end face",
    "face": "face",
    "far": "far side",
    "far end": "far end",
    "floor": "floor",
    "foot": "foot",
    "front": "front",
    "gate": "gate",
    "inner": "inside",
    "island": "island",
    "land": "land",
    "lead": "lead-in",
    "left": "left side",
    "lock": "lock",
    "mirror": "mirror image",
    "mouth": "mouth",
    "near": "near side",
    "of": "face",
    "outer": "outside",
    "patch": "patch",
    "pilot": "pilot hole",
    "pilot floor": "floor of the pilot hole",
    "plane": "parting plane",
    "pocket": "pocket",
    "right": "right side",
    "rim": "rim",
    "roof": "roof",
    "root": "root",
    "runner": "runner",
    "scored": "scored area",
    "shut-off": "shut-off",
    "side": "side",
    "slide": "slide",
    "slope": "slope",
    "split": "parting plane",
    "sprue": "sprue",
    "start": "start face",
    "tail": "last end",
    "tip": "first end",
    "top": "top",
    "undercut": "undercut",
    "under": "lower side",
    "wall": "wall",
    "way": "open way",
    "well": "cold slug well",
}
"""What each role is called on the screen."""

_COAT = re.compile(r"([A-Za-z][A-Za-z0-9]*)\.coat(?![A-Za-z ])")
_SIDES_OF_BLOCKS = ("cavity", "core")


def maker(name: str) -> str:
    """The step that made a face or a body."""
    return name.partition(".")[0]


def role(tag: str) -> str:
    """What the face is to its maker."""
    return re.split(r"[\[{]", tag.partition(".")[2], maxsplit=1)[0]


def coat(tag: str) -> str:
    """The step whose finish or print a mark stands for; blank for a name."""
    found = _COAT.search(tag) if ".coat" in tag else None
    return found[1] if found else ""


def source(tag: str) -> str:
    """The tags of what the face was made from, as they stand between the braces; blank if there are none."""
    start = tag.find("{")
    if start < 0:
        return ""
    depth = 0
    for place in range(start, len(tag)):
        depth += {"{": 1, "}": -1}.get(tag[place], 0)
        if depth == 0:
            return tag[start + 1 : place]
    return tag[start + 1 :]


def role_words(name: str) -> str:
    """A role as the screen says it; copies keep their number: `copy3` is “copy 3”."""
    if name in ROLES:
        return ROLES[name]
    number = re.fullmatch(r"copy(\S+)", name)
    if number:
        return f"copy {number[1]}"
    block, _, side = name.replace(".", " ").partition(" ")
    return f"{ROLES.get(side, side)} of the {block}" if block in _SIDES_OF_BLOCKS else "face"


def made_by(tags: Sequence[str], step: str) -> bool:
    """Whether a face carries the name of a step's making."""
    return any(maker(tag) == step for tag in tags)


def in_role(tags: Sequence[str], *roles: str) -> bool:
    """Whether a face is in one of some roles to any of its makers; `plane` stands for `core.plane` too."""
    return any(role(tag).rpartition(".")[2] in roles for tag in tags)
