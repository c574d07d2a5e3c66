"""The damped least-norm Newton loop: from a start to the nearest place where every equation holds."""

from __future__ import annotations

import numpy as np

from supplecast.geometry import Floats
from supplecast.sketch.banded import Band
from supplecast.sketch.system import System

_CLOSE = 1e-10
_ROUNDS = 60
_PATIENCE = 8


def newton(
    system: System, start: Floats | None = None, band: Band | None = None, *, near: bool = False
) -> tuple[Floats, float]:
    """The unknowns (n,) and the largest misfit in mm, after as many rounds as it takes or as are allowed.

    Damping falls while the misfit halves and rises on a refusal. A `band` made for the same equations may be given; `near`
    says that the start is close to a solution, so that hardly any damping is needed.
    """
    z = (system.z if start is None else start).copy()
    if not system.count:
        return z, 0.0
    band = band or Band(system.entry_rows, system.entry_columns, system.count, len(z))
    residual, slopes = system.evaluate(z)
    damping, best = 1e-9 if near else 1e-3, float(residual @ residual)
    mark = best
    for turn in range(1, _ROUNDS + 1):
        if turn % _PATIENCE == 0:
            if best > 0.8 * mark:
                break  # it creeps: there is no solution this way
            mark = best
        if np.abs(residual).max() < _CLOSE or damping > 1e9:
            break
        factor = band.factored(slopes, damping)
        if factor is None:
            damping = max(damping * 8, 1e-9)
            continue
        step = band.transposed(slopes, band.solve(factor, -residual))
        tried, tried_slopes = system.evaluate(z + step)
        size = float(tried @ tried)
        if not np.isfinite(size) or size >= best:
            damping = max(damping * 8, 1e-9)
            continue
        damping = max(damping * (0.02 if size < best / 4 else 0.3), 1e-11)
        z, residual, slopes, best = z + step, tried, tried_slopes, size
    return z, float(np.abs(residual).max())
