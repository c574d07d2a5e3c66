"""Picks in words: what a chip of the sheet says."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast.document.fields import LinkPick, PlanePick, Profile
from supplecast.document.model import Document
from supplecast.naming import EdgeRef, FaceRef, Rule

_ROLES = {
    "start": "start face",
    "end": "end face",
    "side": "side",
    "under": "lower side",
    "inner": "inside",
    "rim": "rim",
    "blend": "round",
    "corner": "corner round",
    "split": "parting plane",
    "face": "face",
    "top": "top",
    "bottom": "bottom",
}


def face_words(tag: str, document: Document) -> str:
    """A face by its tag: `p81.end` is “end face of step 2”."""
    step, _, rest = tag.partition(".")
    role = rest.split("[")[0].split("{")[0]
    inner = rest[len(role) + 1 : -1] if rest.endswith("}") else ""
    if role == "of" and inner:
        linked_role = inner.partition(".")[2].split("[")[0].split("{")[0]
        return f"{_ROLES.get(linked_role, 'face')} of the linked part"
    if role == "inner" and inner and "|" not in inner:
        return f"inside of {face_words(inner, document)}"
    number = next((i for i, s in enumerate(document.steps, 1) if s.id == step), None)
    where = f"step {number}" if number else "a step no longer there"
    return f"{_ROLES.get(role, 'face')} of {where}"


def rule_words(rule: Rule, document: Document) -> str:
    """A rule as a chip says it."""
    match rule.rule:
        case "uprights" | "made by" | "parallel":
            number = next((i for i, s in enumerate(document.steps, 1) if s.id == rule.of), None)
            what = {"uprights": "uprights", "made by": "edges", "parallel": f"edges along {rule.to}"}[rule.rule]
            return f"{what} of step {number}" if number else f"{what} of a step no longer there"
        case "outer loop":
            return f"outer loop of {face_words(rule.of, document)}"
        case _:
            return f"edges of {face_words(rule.of, document)}"


def picks_words(picks: Sequence[FaceRef | EdgeRef | Rule], document: Document) -> str:
    """A whole chip: one pick by its words, several alike by their number."""
    if not picks:
        return "nothing picked"
    words = []
    edges = sum(isinstance(pick, EdgeRef) for pick in picks)
    if edges:
        words.append(f"{edges} edge{'s' if edges > 1 else ''}")
    words += [rule_words(pick, document) for pick in picks if isinstance(pick, Rule)]
    faces = [pick for pick in picks if isinstance(pick, FaceRef)]
    if len(faces) == 1:
        words.append(face_words(faces[0].face, document))
    elif faces:
        words.append(f"{len(faces)} faces")
    return " and ".join(words)


def plane_words(pick: PlanePick, document: Document) -> str:
    return f"{pick.plane} plane" if pick.face is None else face_words(pick.face, document)


def profile_words(pick: Profile, document: Document) -> str:
    step = next((s for s in document.steps if s.id == pick.sketch), None)
    return step.label if step else "a sketch no longer there"


def link_words(pick: LinkPick, names: dict[str, str]) -> str:
    return names.get(pick.document, "a document no longer there")
