"""Picks in words: what a chip of the sheet says, and what a fault calls the thing it speaks of."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast.document.fields import AxisPick, LinkPick, PlanePick, Profile, Spot
from supplecast.document.step import Step
from supplecast.naming import EdgeRef, FaceRef, Rule
from supplecast.naming import tag as tags

Steps = Sequence[Step]
_SIDES = {"+x": "right", "-x": "left", "+y": "back", "-y": "front", "+z": "top", "-z": "bottom"}


def step_words(steps: Steps, step_id: str) -> str:
    number = next((i for i, step in enumerate(steps, 1) if step.id == step_id), None)
    return f"step {number}" if number else "a step no longer there"


def face_words(tag: str, steps: Steps) -> str:
    """A face by its tag: `p81.end` is “end face of step 2”."""
    role, source = tags.role(tag), tags.source(tag)
    if role == "of" and source:
        if any(step.id == tags.maker(tag) and step.type != "link" for step in steps):
            return face_words(source, steps)
        return f"{tags.role_words(tags.role(source))} of the linked part"
    if role.startswith("copy"):
        return f"{face_words(source, steps)}, {tags.role_words(role)}"
    if role in ("inner", "mirror", "far", "scored", "aside", "clear") and source and "|" not in source:
        return f"{tags.role_words(role)} of {face_words(source, steps)}"
    return f"{tags.role_words(role)} of {step_words(steps, tags.maker(tag))}"


def edge_words(edge: EdgeRef, steps: Steps) -> str:
    a, b = (face_words(tag, steps) for tag in edge.edge)
    return f"edge between two of {a}" if a == b else f"edge between {a} and {b}"


def rule_words(rule: Rule, steps: Steps) -> str:
    """A rule as a chip says it."""
    where = f" of {step_words(steps, rule.of)}" if rule.of and "." not in rule.of else ""
    match rule.rule:
        case "uprights":
            return f"uprights{where}"
        case "made by":
            return f"edges made by {step_words(steps, rule.of or '')}"
        case "convex" | "concave":
            return f"{rule.rule} edges{where}"
        case "every":
            return "every edge"
        case "parallel":
            return f"edges along {rule.to}{where}"
        case "tangent chain":
            return "smooth chain"
        case "opening":
            return "whole opening"
        case "same radius":
            return "round edges of its radius"
        case "between":
            return f"all edges between {face_words(rule.of or '', steps)} and {face_words(rule.other or '', steps)}"
        case "every face":
            return "every face"
        case "smooth faces":
            return "faces that run into it smoothly"
        case "faces made by":
            return f"faces made by {step_words(steps, rule.of or '')}"
        case "flat faces":
            return "flat faces"
        case "round faces":
            return "round faces of its radius"
        case "faces square to":
            return f"faces square to {rule.to}"
        case "faces along":
            return f"faces along {rule.to}"
        case "faces reaching":
            return f"faces reaching the {_SIDES[rule.side or '+z']}"
        case "inner faces" | "outer faces":
            return f"{rule.rule}{where}"
        case "and":
            return " that are also ".join(_within(inner, steps) for inner in rule.rules)
        case "or":
            return " with ".join(_within(inner, steps) for inner in rule.rules)
        case "not":
            return f"not {_within(rule.rules[0], steps)}"
        case "outer loop" | "inner loops":
            return f"{rule.rule} of {face_words(rule.of or '', steps)}"
        case _:
            return f"all edges of {face_words(rule.of or '', steps)}"


def _within(rule: Rule, steps: Steps) -> str:
    words = rule_words(rule, steps)
    return f"({words})" if rule.rule in ("and", "or") else words


def pick_words(pick: FaceRef | EdgeRef | Rule, steps: Steps) -> str:
    if isinstance(pick, Rule):
        return rule_words(pick, steps)
    return face_words(pick.face, steps) if isinstance(pick, FaceRef) else edge_words(pick, steps)


def picks_words(picks: Sequence[FaceRef | EdgeRef | Rule], steps: Steps) -> str:
    """A whole chip: one pick by its words, several alike by their number."""
    if not picks:
        return "nothing picked"
    words = []
    edges = sum(isinstance(pick, EdgeRef) for pick in picks)
    if edges:
        words.append(f"{edges} edge{'s' if edges > 1 else ''}")
    words += [rule_words(pick, steps) for pick in picks if isinstance(pick, Rule)]
    faces = [pick for pick in picks if isinstance(pick, FaceRef)]
    if len(faces) == 1:
        words.append(face_words(faces[0].face, steps))
    elif faces:
        words.append(f"{len(faces)} faces")
    return " and ".join(words)


def plane_words(pick: PlanePick, steps: Steps) -> str:
    if pick.datum is not None:
        return _label(pick.datum, steps)
    return f"{pick.plane} plane" if pick.face is None else face_words(pick.face, steps)


def axis_words(pick: AxisPick, steps: Steps) -> str:
    if pick.axis is not None:
        return f"the {pick.axis} axis"
    if pick.datum is not None:
        return _label(pick.datum, steps)
    if pick.sketch is not None:
        return f"{pick.line} of {_label(pick.sketch, steps)}"
    if pick.edge is not None:
        return edge_words(EdgeRef(edge=pick.edge), steps)
    return f"axis of {face_words(pick.face or '', steps)}"


def things_words(picks: Sequence[FaceRef | EdgeRef | Spot], steps: Steps) -> str:
    """What is measured, one or two things by their words."""
    words = [spots_words([pick], steps) if isinstance(pick, Spot) else pick_words(pick, steps) for pick in picks]
    return " to ".join(words) if words else "nothing picked"


def spots_words(picks: Sequence[Spot], steps: Steps) -> str:
    """Points as a chip says them: one by its words, several by their number."""
    if len(picks) != 1:
        return f"{len(picks)} points" if picks else "no points"
    (pick,) = picks
    if pick.origin:
        return "origin"
    if pick.datum is not None or pick.sketch is not None:
        return _label(pick.datum or pick.sketch or "", steps)
    if pick.edge is None:
        return f"middle of {face_words(pick.face or '', steps)}"
    edge = edge_words(EdgeRef(edge=pick.edge), steps)
    return f"centre of {edge}" if pick.at == "centre" else edge


def _label(step_id: str, steps: Steps) -> str:
    return next((step.label for step in steps if step.id == step_id), "a step no longer there")


def profile_words(pick: Profile, steps: Steps) -> str:
    step = next((s for s in steps if s.id == pick.sketch), None)
    return step.label if step else "a sketch no longer there"


def link_words(pick: LinkPick, names: dict[str, str]) -> str:
    return names.get(pick.document, "a document no longer there")
