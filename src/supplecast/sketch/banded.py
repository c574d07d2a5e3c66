"""The linear algebra of the solver: least-norm steps of a sparse system through a banded Cholesky of J·Jᵀ.

The pattern is frozen once: the products that make up J·Jᵀ are listed by index, rows are put in reverse Cuthill–McKee order, and
each step only fills the band.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import LinAlgError, cho_solve_banded, cholesky_banded
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import reverse_cuthill_mckee

from supplecast.geometry import Floats

Indices = NDArray[np.int64]


class Band:
    """J·Jᵀ of a matrix (m, n) whose entries lie at fixed rows and columns."""

    def __init__(self, rows: Indices, columns: Indices, m: int, n: int) -> None:
        self.rows, self.columns, self.m, self.n = rows, columns, m, n
        # The pattern is derived from ones: products of the values themselves could vanish by chance.
        pattern = csr_matrix((np.ones(len(rows)), (rows, columns)), shape=(m, n))
        order = reverse_cuthill_mckee((pattern @ pattern.T).tocsr(), symmetric_mode=True)
        self.place = np.empty(m, dtype=np.int64)
        self.place[order] = np.arange(m)
        first, second = _pairs(columns)
        i, k = self.place[rows[first]], self.place[rows[second]]
        upper = i <= k
        self._first, self._second = first[upper], second[upper]
        i, k = i[upper], k[upper]
        self.width = int((k - i).max()) if len(i) else 0
        self._slot = (self.width + i - k) * m + k

    def filled(self, slopes: Floats) -> Floats:
        """J·Jᵀ in upper band storage (width + 1, m)."""
        products = slopes[self._first] * slopes[self._second]
        return np.asarray(
            np.bincount(self._slot, products, (self.width + 1) * self.m).reshape(self.width + 1, self.m), dtype=float
        )

    def solve(self, factor: Floats, right: Floats) -> Floats:
        """(J·Jᵀ)⁻¹·right, from a factor of the band; `right` (m,) or (m, k)."""
        ordered = np.empty_like(right)
        ordered[self.place] = right
        return np.asarray(cho_solve_banded((factor, False), ordered))[self.place]

    def transposed(self, slopes: Floats, y: Floats) -> Floats:
        """Jᵀ·y, (n,)."""
        return np.asarray(np.bincount(self.columns, slopes * y[self.rows], self.n), dtype=float)

    def times(self, slopes: Floats, x: Floats) -> Floats:
        """J·x, (m,)."""
        return np.asarray(np.bincount(self.rows, slopes * x[self.columns], self.m), dtype=float)


def factored(band: Floats, damping: float) -> Floats | None:
    """Cholesky factor of the band with `damping` on its diagonal; None where it is not positive."""
    damped = band.copy()
    damped[-1] += damping
    try:
        return np.asarray(cholesky_banded(damped, overwrite_ab=True, lower=False))
    except LinAlgError:
        return None


def _pairs(columns: Indices) -> tuple[Indices, Indices]:
    """Every ordered pair of entries that share a column."""
    order = np.argsort(columns, kind="stable")
    counts = np.bincount(columns) if len(columns) else np.empty(0, dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]]).astype(np.int64) if len(counts) else np.empty(0, dtype=np.int64)
    first, second = [np.empty(0, dtype=np.int64)], [np.empty(0, dtype=np.int64)]
    for count in np.unique(counts[counts > 0]) if len(counts) else ():
        members = order[starts[counts == count][:, None] + np.arange(count)]
        first.append(np.repeat(members, count, axis=1).ravel())
        second.append(np.tile(members, (1, count)).ravel())
    return np.concatenate(first), np.concatenate(second)
