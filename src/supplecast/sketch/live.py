"""A sketch in the hand: solved, ready to be dragged, its freedoms known. Nothing is compiled anew while a drag goes on."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from supplecast.errors import SketchError
from supplecast.geometry import Floats, Point2
from supplecast.sketch.banded import Band
from supplecast.sketch.diagnosis import measured
from supplecast.sketch.equations import SizeOf
from supplecast.sketch.inference import Sights
from supplecast.sketch.labels import followed
from supplecast.sketch.model import ORIGIN, Arc, Circle, Drawing, Ellipse, stands_on
from supplecast.sketch.newton import newton
from supplecast.sketch.reach import turned_over, turns
from supplecast.sketch.solver import Solution, laid, places_and_radii, solve
from supplecast.sketch.system import System, too_small

_PULL = 1e2  # how much more the dragged point weighs than the rest
_CAP = 0.05  # of the sketch's size, the longest step at once
_HELD = 1e-8
_DAMPING = 1e-10
_SUBSTEPS = 6
_MOVES = 1e-6


@dataclass(frozen=True)
class Motion:
    """How a loose point can still move: every way (two freedoms), or along one direction."""

    point: str
    at: Point2
    along: Point2 | None


class Live:
    """A drawing solved with its sizes."""

    def __init__(self, drawing: Drawing, size: SizeOf, solution: Solution | None = None) -> None:
        self.solution = solution or solve(drawing, size)
        self.drawing = laid(drawing, self.solution.points, self.solution.radii)
        self._size = size

    @cached_property
    def system(self) -> System:
        return System(self.drawing, self._size)

    @cached_property
    def band(self) -> Band:
        system = self.system
        return Band(system.entry_rows, system.entry_columns, system.count, len(system.z))

    @cached_property
    def sights(self) -> Sights:
        return Sights(self.drawing)

    # --- typing ----------------------------------------------------------------------------------------------------

    def retyped(self, name: str, value: str) -> Live | None:
        """The same with another value for one size, without compiling anew.

        None where that will not do: the size was merged away, nothing is found near by, or the shape turns over. Freedoms stay
        what they were, since the equations do.
        """
        held = self.drawing.constraints[name].model_copy(update={"value": value})
        system = self.system
        if held.driven or held.group or not system.resized(name, held, self._size(name, held)):
            return None
        z, misfit = newton(system, system.z, self.band, near=True)
        points, radii = places_and_radii(system, z)
        before = turns(self.drawing, self.drawing.points)
        if misfit > 1e-7 or too_small(system, z) or turned_over(before, turns(self.drawing, points)):
            del self.__dict__["system"]  # it says the refused value by now
            return None
        there = self.drawing.model_copy(update={"constraints": {**self.drawing.constraints, name: held}})
        there = followed(self.drawing, there.model_copy(update={"points": {p: points[p] for p in there.points}}))
        driven = {k: measured(there.constraints[k], points, radii, there) for k in self.solution.driven}
        solution = replace(self.solution, points=points, radii=radii, misfit=misfit, driven=driven)
        live = Live(there, self._size, solution)
        # The equations were changed in place: they go on with the new drawing, and the old one must make its own.
        live.__dict__.update(system=system.moved(live.drawing, z), band=self.band)
        for kept in ("system", "_z"):
            self.__dict__.pop(kept, None)
        return live

    # --- dragging --------------------------------------------------------------------------------------------------

    def grabbed(self, name: str, place: Point2) -> Mapping[str, float]:
        """What a grab at a place holds: each of its scalars, with its offset from the pointer (mm)."""
        drawing = self.drawing
        if name in drawing.points:
            x, y = drawing.points[name]
            return {f"{name}.x": x - place[0], f"{name}.y": y - place[1]}
        entity = drawing.entities.get(name)
        if entity is None:
            raise SketchError("What was grabbed is no longer in the sketch.", "Grab something else.")
        if isinstance(entity, (Arc, Circle)):
            return {f"{name}.r": 0.0}
        offsets: dict[str, float] = {}
        for point in stands_on(entity) - {ORIGIN}:
            x, y = drawing.points[point]
            offsets |= {f"{point}.x": x - place[0], f"{point}.y": y - place[1]}
        return offsets

    def can_move(self, name: str) -> bool:
        """Whether anything of a point or an entity is loose."""
        entity = self.drawing.entities.get(name)
        parts = {name} if entity is None else {name, *stands_on(entity)}
        return bool(self.solution.loose & parts)

    def dragged(self, offsets: Mapping[str, float], to: Point2) -> tuple[dict[str, Point2], dict[str, float]]:
        """Pull what was grabbed to a place, the rest following as little as possible: places and radii, constraints held.

        Minimises the weighted move with the constraints linearised: one factor a step, corrected by chord steps. A step that
        cannot be held is quartered; the last good places stay.
        """
        system = self.system
        z = self._z
        target = self._targets(offsets, to)
        if not len(target[0]):
            return places_and_radii(system, z)
        weights = np.ones(len(z))
        weights[target[0]] = 1 / _PULL
        reach = _CAP * max(self._extent, 1.0)
        share = 1.0
        for _ in range(_SUBSTEPS):
            direction = target[1] - z[target[0]]
            far = float(np.abs(direction).max(initial=0.0))
            if far < 1e-9:
                break
            wish = np.zeros_like(z)
            wish[target[0]] = direction * min(1.0, reach / far) * share
            tried = self._stepped(z, wish, weights)
            if tried is None:
                share /= 4
                if share < 1e-3:
                    break
                continue
            z = tried
            if far <= reach and share == 1.0:
                break
        self._z = z
        return places_and_radii(system, z)

    @cached_property
    def _z(self) -> Floats:
        return self.system.z.copy()

    @cached_property
    def _extent(self) -> float:
        places = np.array([(0.0, 0.0), *self.drawing.points.values()])
        return float(np.hypot(*np.ptp(places, axis=0)))

    def _targets(self, offsets: Mapping[str, float], to: Point2) -> tuple[NDArray[np.int64], Floats]:
        columns: dict[int, float] = {}
        system = self.system
        for scalar, offset in offsets.items():
            column = system.column.get(scalar, len(self._z))
            if column >= len(self._z):
                continue  # fixed
            name, _, axis = scalar.rpartition(".")
            if axis == "r":
                entity = self.drawing.entities[name]
                assert isinstance(entity, (Arc, Circle, Ellipse))
                centre = [system.scalar(self._z, s) for s in system.xy(entity.c)]
                columns[column] = max(math.dist(to, centre), 1e-3)
            else:
                columns.setdefault(column, (to[0] if axis == "x" else to[1]) + offset)
        return np.array(list(columns), dtype=np.int64), np.array(list(columns.values()))

    def _stepped(self, z: Floats, wish: Floats, weights: Floats) -> Floats | None:
        """One weighted least step towards a wish that keeps the constraints; None if they cannot be held."""
        system = self.system
        if not system.count:
            return z + wish
        band = self.band
        root = np.sqrt(weights)
        scale = root[system.entry_columns]
        residual, slopes = system.evaluate(z)
        factor = band.factored(slopes * scale, _DAMPING)
        if factor is None:
            return None
        y = band.solve(factor, residual + band.times(slopes, wish))
        moved = z + wish - root * band.transposed(slopes * scale, y)
        before = np.inf
        renewed = 0
        for _ in range(12):
            residual, new_slopes = system.evaluate(moved)
            size = float(np.abs(residual).max())
            if size < _HELD:
                return moved
            if not np.isfinite(size) or size > 1e6:
                return None
            if size > 0.3 * before:
                if renewed >= 3:
                    return None
                renewed += 1
                slopes = new_slopes
                factor = band.factored(slopes * scale, _DAMPING)
                if factor is None:
                    return None
            before = size
            moved = moved - root * band.transposed(slopes * scale, band.solve(factor, residual))
        return None

    # --- freedoms --------------------------------------------------------------------------------------------------

    def directions(self, most: int = 60) -> list[Motion]:
        """How each loose point can still move, for at most `most` of them."""
        system = self.system
        n = len(system.z)
        points = [name for name in self.drawing.points if name in self.solution.loose][:most]
        if not points:
            return []
        columns = np.array([[system.column[f"{name}.{axis}"] for axis in "xy"] for name in points])
        wishes = np.zeros((n, 2 * len(points)))
        for k, column in enumerate(columns.ravel()):
            if column < n:
                wishes[column, k] = 1.0
        moved = self._projected(wishes)
        motions = []
        for k, name in enumerate(points):
            block = np.zeros((2, 2))
            for i in range(2):
                for j in range(2):
                    if columns[k, i] < n:
                        block[i, j] = moved[columns[k, i], 2 * k + j]
            values, vectors = np.linalg.eigh((block + block.T) / 2)
            if values[1] < _MOVES:
                continue
            along = None if values[0] > _MOVES else (float(vectors[0, 1]), float(vectors[1, 1]))
            motions.append(Motion(name, self.drawing.points[name], along))
        return motions

    def _projected(self, wishes: Floats) -> Floats:
        """Wishes (n, k) less what the constraints forbid."""
        system = self.system
        if not system.count:
            return wishes
        band = self.band
        _, slopes = system.evaluate(system.z)
        factor = band.factored(slopes, _DAMPING)
        if factor is None:
            return np.zeros_like(wishes)
        dense = system.sparse(slopes)
        for _ in range(2):
            wishes = wishes - dense.T @ band.solve(factor, dense @ wishes)
        return wishes
