"""Finding the coordinates that satisfy every constraint, from where the drawing lies.

Loose geometry is moved as little as possible. A damped least-norm Newton loop works on the merged equations; damping falls
while the misfit halves and rises on a refusal. Where equations turn out to depend on each other, the diagnosis says which
constraints clash or say the same twice. Where a shape turns over or a size cannot be reached, the sizes are changed in stages.
Checked against scipy.optimize.least_squares in the tests.
"""

from __future__ import annotations

import contextlib
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2
from supplecast.sketch import diagnosis
from supplecast.sketch.banded import Band
from supplecast.sketch.called import named, said
from supplecast.sketch.equations import SizeOf
from supplecast.sketch.model import ANGLES, ORIGIN, Circle, Drawing, Ellipse
from supplecast.sketch.newton import newton
from supplecast.sketch.reach import guards, reversed_lines, turned_over, turns, unreached, vanishes
from supplecast.sketch.system import System, too_small

_UNSOLVED = 1e-7
_FIRST_STAGE, _LEAST_STAGE = 1 / 8, 1 / 512
_SETTLED = 1e-4


@dataclass(frozen=True)
class Solution:
    """Solved coordinates (mm) and radii, the freedoms left, which points and rounds can still move, and the largest misfit.

    `doubled` names constraints that others say already; `driven` the measured values of driven sizes, in mm or rad.
    """

    points: Mapping[str, Point2]
    radii: Mapping[str, float]
    freedoms: int
    misfit: float
    loose: frozenset[str] = frozenset()
    doubled: tuple[str, ...] = ()
    driven: Mapping[str, float] = field(default_factory=dict)


def solve(drawing: Drawing, size: SizeOf) -> Solution:
    """Solve a drawing from where it lies. `size` gives a constraint's value in mm or rad.

    Raises SketchError naming the constraints in conflict, with the misfit in mm, or the size that cannot be reached.
    """
    system = System(drawing, size)
    z, misfit = newton(system)
    shrunk = too_small(system, z)
    before = turns(drawing, {name: drawing.place(name) for name in drawing.points})
    if misfit > _UNSOLVED or shrunk:
        failed, nearest = system, z

        def refusal() -> SketchError:
            return shrunk if misfit <= _UNSOLVED and shrunk else _refusal(drawing, size, failed, nearest, misfit)

        system, z, misfit = _in_stages(drawing, size, system, refusal)
    elif turned_over(before, turns(drawing, places_and_radii(system, z)[0])):
        # Every equation holds, but the shape has turned somewhere: in stages it finds its natural way, if there is one.
        with contextlib.suppress(SketchError):
            system, z, misfit = _in_stages(drawing, size, system, lambda: SketchError("The shape turns over."))
    freedom = diagnosis.freedom(system, z)
    doubled = tuple(dict.fromkeys(name for name in system.doubled if name in drawing.constraints))
    count = freedom.count
    if freedom.deficient:
        twice = diagnosis.said_twice(drawing, size, scalar_values(system, z))
        doubled, count = tuple(dict.fromkeys((*doubled, *twice.names))), max(count - twice.extremes, 0)
    points, radii = places_and_radii(system, z)
    driven = {
        name: diagnosis.measured(constraint, points, radii, drawing)
        for name, constraint in drawing.constraints.items()
        if constraint.driven
    }
    return Solution(points, radii, count, misfit, freedom.loose, doubled, driven)


def _in_stages(
    drawing: Drawing, size: SizeOf, system: System, refusal: Callable[[], SketchError]
) -> tuple[System, Floats, float]:
    """Take the sizes from what they are to what they shall be, by halves where a stage fails.

    SketchError with the value at which the way ends if one size alone is at fault and some of the way can be gone, else the
    given refusal.
    """
    places = {name: drawing.place(name) for name in drawing.points}
    radii = {name: system.value(f"{name}.r") for name in system.rounds}
    now = {
        name: diagnosis.measured(constraint, places, radii, drawing)
        for name, constraint in drawing.constraints.items()
        if constraint.value is not None and not constraint.driven
    }
    system_sizes = dict(system.sizes)
    directions = {name: system_sizes[name] - value for name, value in now.items()}
    for name in directions:
        if drawing.constraints[name].type in ANGLES:  # the short way round
            directions[name] = (directions[name] + math.pi) % (2 * math.pi) - math.pi
    reached, step, at = 0.0, _FIRST_STAGE, drawing
    changing = [name for name, direction in directions.items() if abs(direction) > 1e-9]
    kept: tuple[System, Band] | None = None
    seen = [(0.0, guards(drawing, places, radii))]
    limit, vanishing = 0.0, ""
    while True:
        share = min(reached + step, 1.0)
        stage = {name: value + directions[name] * share for name, value in now.items()}
        # Sizes that stand in equations of their own are changed there; only those that were merged away call for new equations.
        if kept is None or not all(kept[0].resized(name, drawing.constraints[name], stage[name]) for name in changing):
            system = System(at, _given(stage))
            kept = (system, Band(system.entry_rows, system.entry_columns, system.count, len(system.z)))
        staged, band = kept
        z, misfit = newton(staged, staged.z, band, near=True)
        places, radii = places_and_radii(staged, z)
        if misfit > _UNSOLVED or too_small(staged, z) or reversed_lines(seen[-1][1], guards(drawing, places, radii)):
            # Where a length runs towards nothing, the way ends where it gets there: it is sought there, not by halves.
            event, entity = vanishes(seen)
            if reached < event <= share:
                if abs(event - limit) < _SETTLED:
                    break  # said the same twice: it is there
                limit, vanishing = event, entity
                step = 0.9 * (event - reached)
            else:
                step /= 2
            if step > _LEAST_STAGE:
                continue
            break
        if share >= 1.0:
            return staged, z, misfit
        seen = [seen[-1], (share, guards(drawing, places, radii))]
        reached, step, at = share, min(step * 2, _FIRST_STAGE), laid(drawing, places, radii)
        staged.z = z
    changed = [name for name, direction in directions.items() if abs(direction) > 1e-6]
    if len(changed) == 1 and reached > 0:
        (name,) = changed
        value = now[name] + directions[name] * max(limit, reached)
        words = named(drawing, vanishing) if vanishing else ""
        raise unreached(drawing.constraints[name], value, system_sizes[name], words)
    raise refusal()


def _given(values: Mapping[str, float]) -> SizeOf:
    return lambda name, _: values.get(name, 0.0)


def laid(drawing: Drawing, points: Mapping[str, Point2], radii: Mapping[str, float]) -> Drawing:
    """A drawing at other places and with other radii."""
    entities = {
        name: entity.model_copy(update={"r": radii[name]})
        if isinstance(entity, (Circle, Ellipse)) and entity.r != radii[name]
        else entity
        for name, entity in drawing.entities.items()
    }
    return drawing.model_copy(update={"points": {name: points[name] for name in drawing.points}, "entities": entities})


def places_and_radii(system: System, z: Floats) -> tuple[dict[str, Point2], dict[str, float]]:
    """Points and radii by name."""
    points: dict[str, Point2] = {ORIGIN: (0.0, 0.0)}
    for name in system.drawing.points:
        points[name] = (system.scalar(z, f"{name}.x"), system.scalar(z, f"{name}.y"))
    radii = {name: system.scalar(z, f"{name}.r") for name in system.rounds}
    return points, radii


def scalar_values(system: System, z: Floats) -> dict[str, float]:
    """Every scalar by name, merged ones included."""
    return {name: system.scalar(z, name) for name in system.start}


def _refusal(drawing: Drawing, size: SizeOf, system: System, z: Floats, misfit: float) -> SketchError:
    clash = diagnosis.conflict(drawing, size, scalar_values(system, z), system.start)
    if clash:
        names = [said(drawing, name) for name in clash[:6]]
        more = f" and {len(clash) - 6} more" if len(clash) > 6 else ""
        return SketchError(
            f"{names[0].capitalize()} contradicts {', '.join(names[1:]) or 'itself'}{more}: "
            f"they are {misfit:.3g} mm from agreeing.",
            "Change or remove one of them.",
            lit=clash,
        )
    residual, _ = system.evaluate(z)
    worst = sorted(range(system.count), key=lambda row: -abs(float(residual[row])))[:3]
    words = ", ".join(f"{said(drawing, system.owners[row])} ({abs(float(residual[row])):.3g} mm off)" for row in worst)
    return SketchError(f"The sizes of the sketch cannot all be reached from here: {words}.", "Change them in smaller steps.")
