"""Equations compiled: unknown numbers, one NumPy batch for each kind of equation, residuals in mm and their gradients.

Numbers that a constraint makes equal, or sets to a value, are merged before solving (coincident, horizontal, vertical, level,
plumb, fix, radius), unless that would merge more than a few radii into one: such a hub would touch nearly every equation.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from supplecast.errors import SketchError
from supplecast.geometry import Floats
from supplecast.sketch.called import named
from supplecast.sketch.equations import Equation, Equations, SizeOf, say
from supplecast.sketch.model import Constraint, Drawing, Line, Spline
from supplecast.sketch.residuals import KINDS

Indices = NDArray[np.int64]
_MOST_MERGED_RADII = 10
_SAME = 1e-9


@dataclass
class _Batch:
    rows: list[int] = field(default_factory=list)
    at: list[list[int]] = field(default_factory=list)
    constants: list[tuple[float, ...]] = field(default_factory=list)


class System(Equations):
    """The equations of a drawing, ready to be solved. With `merged`, plain equalities are taken out beforehand; diagnosis wants
    them all.
    """

    def __init__(self, drawing: Drawing, size: SizeOf, *, merged: bool = True) -> None:
        super().__init__(drawing, size)
        self._compile(merged)

    def _compile(self, merged: bool) -> None:
        holder = {name: name for name in (*self.start, "0", "1")}
        fixed = {"0": 0.0, "1": 1.0}
        kept: list[Equation] = []
        radii: dict[str, int] = {}

        def find(name: str) -> str:
            while holder[name] != name:
                holder[name] = holder[holder[name]]
                name = holder[name]
            return name

        for equation in self.equations:
            if not (merged and equation.kind == "sum" and self._merges(equation, find, fixed, holder, radii)):
                kept.append(equation)
        # In the order of the drawing: what lies together there makes for a narrow band.
        free = {find(name) for name in self.start} - fixed.keys()
        names = [name for name in self.start if name in free]
        sizes = {name: index for index, name in enumerate(names)}
        self.z = np.array([self.start[name] for name in names])
        constants = [fixed[name] for name in fixed]
        slots = {name: len(names) + index for index, name in enumerate(fixed)}
        self.constants = np.array(constants)
        self.column = {name: sizes.get(find(name), slots.get(find(name), 0)) for name in (*self.start, "0", "1")}
        self.rows = kept
        self.owners = [equation.owner for equation in kept]
        self._batch(kept)

    def _merges(
        self,
        equation: Equation,
        find: Callable[[str], str],
        fixed: dict[str, float],
        holder: dict[str, str],
        radii: dict[str, int],
    ) -> bool:
        """Take an equality of two scalars, or of one and a value, into the holders; False if it must stay an equation."""
        ca, cb, cc, value = equation.constants
        a, b = (find(name) for name in equation.at[:2])
        if cc != 0.0 or abs(ca) != 1.0 or (cb != -ca and b != "0"):
            return False
        if b == "0" or a == "0":
            free, sign = (a, ca) if b == "0" else (b, cb)
            if free in fixed:
                return self._twice(abs(fixed[free] - value / sign), equation)
            fixed[free] = value / sign
            return True
        if a == b:
            return self._twice(abs(value), equation)
        if a in fixed and b in fixed:
            return self._twice(abs(ca * fixed[a] + cb * fixed[b] - value), equation)
        if value != 0.0:
            return False
        if a in fixed or b in fixed:
            loose, bound = (b, a) if a in fixed else (a, b)
            holder[loose] = bound
            return True
        if a.endswith(".r"):
            count = radii.get(a, 1) + radii.get(b, 1)
            if count > _MOST_MERGED_RADII:
                return False
            radii[b] = count
        holder[a] = b
        return True

    def _twice(self, misfit: float, equation: Equation) -> bool:
        """An equality that others say already is left out, and noted; one that contradicts them stays, to be found wrong."""
        if misfit > _SAME:
            return False
        self.doubled.append(equation.owner)
        return True

    def _batch(self, equations: list[Equation]) -> None:
        batches: dict[str, _Batch] = {}
        for row, equation in enumerate(equations):
            batch = batches.setdefault(equation.kind, _Batch())
            batch.rows.append(row)
            batch.at.append([self.column[name] for name in equation.at])
            batch.constants.append(equation.constants)
        self.batches = [
            (KINDS[kind][1], np.array(b.rows), np.array(b.at, dtype=np.int64), np.array(b.constants, dtype=float))
            for kind, b in batches.items()
        ]
        rows = [np.repeat(rows, at.shape[1]) for _, rows, at, _ in self.batches]
        columns = [at.ravel() for _, _, at, _ in self.batches]
        empty = np.empty(0, dtype=np.int64)
        every = np.concatenate(columns) if columns else empty
        self._used = every < len(self.z)  # the rest are constants
        self.entry_rows = (np.concatenate(rows) if rows else empty)[self._used]
        self.entry_columns = every[self._used]

    def resized(self, name: str, held: Constraint, value: float) -> bool:
        """Put another value of a size into its equations; False if they are not there as such, or would change."""
        rows = [row for row, owner in enumerate(self.owners) if owner == name]
        kept, self.equations = self.equations, []
        say(self, name, held, value)
        said_now, self.equations = self.equations, kept
        if not rows or len(rows) != len(said_now):
            return False
        for row, equation in zip(rows, said_now, strict=True):
            if (equation.kind, equation.at) != (self.rows[row].kind, self.rows[row].at):
                return False
        for row, equation in zip(rows, said_now, strict=True):
            self.rows[row] = equation
            for _, batch_rows, _, constants in self.batches:
                place = np.nonzero(batch_rows == row)[0]
                if len(place):
                    constants[place[0]] = equation.constants
        self.sizes[name] = value
        return True

    def moved(self, drawing: Drawing, z: Floats) -> System:
        """The same equations for a drawing of the same parts that lies at other places."""
        self.drawing, self.z = drawing, z.copy()
        for name in self.start:
            self.start[name] = self.scalar(z, name)
        return self

    @property
    def count(self) -> int:
        return len(self.owners)

    def evaluate(self, z: Floats) -> tuple[Floats, Floats]:
        """Residuals (m,) in mm, and the slopes at (entry_rows, entry_columns)."""
        full = np.concatenate([z, self.constants])
        residual = np.empty(self.count)
        slopes = []
        for kind, rows, at, constants in self.batches:
            value, slope = kind(full[at], constants)
            residual[rows] = value
            slopes.append(slope.ravel())
        return residual, (np.concatenate(slopes) if slopes else np.empty(0))[self._used]

    def dense(self, slopes: Floats) -> Floats:
        """The gradient (m, n) as a full matrix."""
        whole = np.zeros((self.count, len(self.z)))
        np.add.at(whole, (self.entry_rows, self.entry_columns), slopes)
        return whole

    def sparse(self, slopes: Floats) -> Any:
        """The gradient (m, n) as a sparse matrix."""
        return csr_matrix((slopes, (self.entry_rows, self.entry_columns)), shape=(self.count, len(self.z)))

    def scalar(self, z: Floats, name: str) -> float:
        column = self.column[name]
        return float(z[column]) if column < len(z) else float(self.constants[column - len(z)])


def too_small(system: System, z: Floats) -> SketchError | None:
    """A line that has shrunk to nothing, or a round without a radius, as a refusal."""
    for name, entity in system.drawing.entities.items():
        words = ""
        if isinstance(entity, Line):
            a, b = ([system.scalar(z, scalar) for scalar in system.xy(p)] for p in (entity.a, entity.b))
            words = "shrink to nothing" if math.dist(a, b) < 1e-7 else ""
        elif not isinstance(entity, Spline) and system.scalar(z, f"{name}.r") <= 1e-9:
            words = "have no radius left"
        if words:
            return SketchError(f"{named(system.drawing, name).capitalize()} would {words}.", "Change what squeezes it.")
    return None
