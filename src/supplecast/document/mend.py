"""What is said and offered where a pick or a verb went wrong: where it was lost, what may take its place, who is to blame."""

from __future__ import annotations

from collections.abc import Sequence

from supplecast.document.state import Entry, Repair, State
from supplecast.document.step import Step
from supplecast.document.words import step_words
from supplecast.errors import KernelError
from supplecast.naming import EdgeRef, FaceRef, Resolution, Rule, reference_edge, reference_face, resolve
from supplecast.naming.tag import maker


def lost_to(state: State, entry: Entry, pick: FaceRef | EdgeRef | Rule, steps: Sequence[Step]) -> str:
    """Which step took a pick away: the first whose shape of the body no longer has it."""
    last = None
    for step_id, delta in state.trail:
        for shape in delta.bodies:
            if shape.id != entry.id:
                continue
            if isinstance(pick, FaceRef):
                there = pick.face in shape.body.faces_by_tag
            elif isinstance(pick, EdgeRef):
                a, b = sorted(pick.edge)
                there = (a, b) in shape.body.edges_by_pair
            else:
                there = bool(resolve(shape.body, pick).items)
            if there:
                last = ""
            elif last == "":
                last = step_id
    if last:
        return f"It was taken away by {step_words(steps, last)}."
    makers = {maker(tag) for tag in (pick.names() if isinstance(pick, Rule) else _tags(pick))}
    gone = [name for name in sorted(makers) if all(name != step.id or step.skip for step in steps)]
    if gone:
        return f"{step_words(steps, gone[0]).capitalize()}, which made it, is skipped or deleted."
    return f"{step_words(steps, sorted(makers)[0]).capitalize()} no longer makes it." if makers else ""


def repairs(entry: Entry, pick: FaceRef | EdgeRef | Rule, resolution: Resolution) -> tuple[Repair, ...]:
    """What one click can put in a flagged pick's place."""
    drop = Repair("unpick it", ())
    if isinstance(pick, Rule):
        return (drop,)
    word = "face" if isinstance(pick, FaceRef) else "edge"

    def repair(words: str, items: Sequence[int]) -> Repair:
        make = reference_face if isinstance(pick, FaceRef) else reference_edge
        references = (make(entry.body, item, pick.body) for item in items)
        return Repair(words, tuple(f.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for f in references))

    items, other = resolution.items, resolution.other
    match resolution.status:
        case "ordered":
            return ()
        case "split" if other:
            return (repair("only this piece", items), repair(f"all {len(other)} pieces", other), drop)
        case "split":
            single = [repair(f"piece {number}", (item,)) for number, item in enumerate(items[:3], 1)]
            return (repair(f"all {len(items)} pieces", items), *single, drop)
        case "conflict":
            return (repair("by its surroundings", items), repair("by its place", other), drop)
        case "merged" | "partial":
            return (repair(f"this {word}", items), drop)
        case "ambiguous":
            single = [repair(f"{word} {number}", (item,)) for number, item in enumerate(other[:4], 1)]
            return (*single, repair(f"all {len(other)}", other), drop)
        case _:
            return (drop,)


def bodies_at_fault(state: State, fault: KernelError, args: Sequence[object]) -> list[str]:
    """The names of input bodies a verb found at fault, in words."""
    given = [solid for arg in args for solid in (arg if isinstance(arg, (list, tuple)) else [arg])]
    solids = [given[body] for body in fault.bodies if body < len(given)]
    names = [entry.name for entry in state.bodies.values() if any(s is entry.body.solid for s in solids)]
    return [f"Apart from the rest: {', '.join(names)}."] if names else []


def culprits(state: State, fault: KernelError, args: Sequence[object]) -> tuple[dict[str, object], ...]:
    """References to the faces and edges a verb found at fault, where its solid is a body of the document."""
    entry = next((e for e in state.bodies.values() if any(a is e.body.solid for a in args)), None)
    if entry is None:
        return ()
    faces = [reference_face(entry.body, face, entry.id) for face in fault.faces]
    edges = [reference_edge(entry.body, edge, entry.id) for edge in fault.edges]
    return tuple(f.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for f in (*faces, *edges))


def _tags(pick: FaceRef | EdgeRef) -> tuple[str, ...]:
    return (pick.face,) if isinstance(pick, FaceRef) else pick.edge
