"""Doing acts on a drawing: performed with the pen, solved, and laid where the solution says.

What was only inferred and turns out to be said already is dropped again. A size that clashes with others is refused with what
it clashes with, and can be kept as a driven one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from supplecast.errors import SketchError
from supplecast.quantities import Scope
from supplecast.sketch import diagnosis
from supplecast.sketch.acts import Act
from supplecast.sketch.called import numbered, said
from supplecast.sketch.labels import followed
from supplecast.sketch.model import SIZED, Drawing, stands_on
from supplecast.sketch.pen import Pen
from supplecast.sketch.sizing import size_of
from supplecast.sketch.solver import Solution, laid, solve


class Clash(SketchError):
    """A constraint that contradicts or doubles others: `lit` names those; `drive` tells whether it may be a driven size."""

    def __init__(self, message: str, hint: str, lit: tuple[str, ...], drive: bool) -> None:
        super().__init__(message, hint, lit=lit)
        self.drive = drive


@dataclass(frozen=True)
class Done:
    """A drawing after acts, solved, and what came of them: a sentence, and the names of what was made."""

    drawing: Drawing
    solution: Solution
    words: str
    made: tuple[str, ...]


def copied(drawing: Drawing) -> Drawing:
    """A drawing of its own: its parts are never changed, so only the lists are copied."""
    return Drawing.model_construct(
        points=dict(drawing.points),
        entities=dict(drawing.entities),
        constraints=dict(drawing.constraints),
        figures=dict(drawing.figures),
        numbers=dict(drawing.numbers),
        series=dict(drawing.series),
        taken=dict(drawing.taken),
        photos=dict(drawing.photos),
    )


def perform(drawing: Drawing, acts: Sequence[Act], scope: Scope) -> Done:
    """Do acts on a copy of a drawing. SketchError names what cannot be done; nothing is changed then."""
    size = size_of(scope)
    pen = Pen(copied(drawing), scope)
    for act in acts:
        act.on(pen)
    if any(act.reshapes for act in acts):
        pen.meet()
    pen.tidy_figures()
    pen.tidy_touches()
    changed = pen.drawing
    fresh = [name for name in changed.constraints if name not in drawing.constraints and name not in pen.inferred + pen.links]
    try:
        solution = solve(changed, size)
    except SketchError as fault:
        solution = _without_inferred(changed, pen, fault, fresh, scope)
    while solution.doubled:
        spare = [name for name in pen.inferred + pen.links if name in solution.doubled and name in changed.constraints]
        if not spare and pen.reshaped:
            # Pieces brought together may be tied by what tied others before: one of the two is enough.
            known = solve(drawing, size).doubled
            spare = [name for name in solution.doubled if name not in known]
        if not spare:
            break
        for name in spare:
            del changed.constraints[name]
        solution = solve(changed, size)
    new = [name for name in fresh if name in solution.doubled and name in changed.constraints]
    if new:
        _refuse_doubled(changed, new, scope)
    report = pen.report
    after = solution.freedoms
    told = report.lost or report.weakened or any(act.reshapes for act in acts)
    before = solve(drawing, size).freedoms if told else after
    words = report.sentence(before, after, _moving(changed, solution) if after and not before else ())
    lying = laid(changed, solution.points, solution.radii)
    return Done(followed(drawing, lying), solution, words, tuple(pen.made))


def _moving(drawing: Drawing, solution: Solution) -> list[str]:
    """What can move, by name."""
    names = numbered(drawing)
    return [names[name] for name, entity in drawing.entities.items() if solution.loose & {name, *stands_on(entity)}]


def _without_inferred(changed: Drawing, pen: Pen, fault: SketchError, fresh: Sequence[str], scope: Scope) -> Solution:
    """What was only inferred must not stand in the way: solved again without it."""
    inferred = [name for name in pen.inferred if name in changed.constraints]
    for name in inferred:
        del changed.constraints[name]
    if inferred:
        return solve(changed, size_of(scope))
    sized = [name for name in fresh if changed.constraints[name].type in SIZED]
    raise Clash(fault.message, fault.hint, fault.lit, bool(sized)) from fault


def _refuse_doubled(changed: Drawing, new: Sequence[str], scope: Scope) -> None:
    name = new[0]
    held = changed.constraints[name]
    circuit = tuple(k for k in diagnosis.circuit(changed, size_of(scope), name) if k != name)
    # What speaks of the same things is what one looks for; sizes further off only complete the round.
    near = sorted(circuit, key=lambda k: not set(changed.constraints[k].on) & set(held.on))
    words = ", ".join(said(changed, k) for k in near[:4]) or "other constraints"
    words += f" and {len(near) - 4} more" if len(near) > 4 else ""
    sized = held.type in SIZED
    hint = "Keep it as a driven size, which only measures, or take one of them out." if sized else "It is not needed."
    raise Clash(f"{said(changed, name).capitalize()} is said already by {words}.", hint, (name, *circuit), sized)
