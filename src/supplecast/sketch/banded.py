"""The linear algebra of the solver: least-norm steps of a sparse system through a banded Cholesky of J·Jᵀ.

The pattern is frozen once: the products that make up J·Jᵀ are listed by index, rows are put in reverse Cuthill–McKee order, and
each step only fills the band.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import LinAlgError, cho_solve_banded, cholesky_banded
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import reverse_cuthill_mckee

from supplecast import budget
from supplecast.geometry import Floats

Indices = NDArray[np.int64]


_HUB = 24
"""A column that more rows than this read is a hub: the band is built without it, and bordered by it."""
_PRODUCT, _PIVOT = 0.2, 3e-4
"""Work units: of a product that is listed, and of one step of the factoring."""
_BORDER = 1e-9


class Band:
    """J·D·Jᵀ of a matrix (m, n) whose entries lie at fixed rows and columns, with D a diagonal of column weights.

    A few columns that nearly every row reads, such as a free axis that a hundred pairs are mirrored about, would make it dense.
    They are left out of the band and border it: with B the banded part and H the hub columns, (B + H·Dh·Hᵀ)·y = b is solved by
    Y = B⁻¹H and the small system of 1/Dh + HᵀY (Woodbury 1950). Rows that read hubs only keep a slight damping in B.
    """

    def __init__(self, rows: Indices, columns: Indices, m: int, n: int) -> None:
        self.rows, self.columns, self.m, self.n = rows, columns, m, n
        counts = np.bincount(columns, minlength=n) if len(columns) else np.zeros(n, dtype=np.int64)
        self.hubs = np.nonzero(counts > _HUB)[0]
        if len(self.hubs) > 12 or len(self.hubs) == n:
            self.hubs = np.empty(0, dtype=np.int64)  # as many as that are no border any more
        in_hub = np.isin(columns, self.hubs)
        plain = np.nonzero(~in_hub)[0]
        budget.spend(_PRODUCT * float(np.square(np.delete(counts, self.hubs), dtype=float).sum()))
        self._hub_entries = np.nonzero(in_hub)[0]
        self._hub_at = np.searchsorted(self.hubs, columns[self._hub_entries])
        # The pattern is derived from ones: products of the values themselves could vanish by chance.
        pattern = csr_matrix((np.ones(len(plain)), (rows[plain], columns[plain])), shape=(m, n))
        order = reverse_cuthill_mckee((pattern @ pattern.T).tocsr(), symmetric_mode=True) if m else np.empty(0, np.int64)
        self.place = np.empty(m, dtype=np.int64)
        self.place[order] = np.arange(m)
        first, second = _pairs(columns[plain])
        first, second = plain[first], plain[second]
        i, k = self.place[rows[first]], self.place[rows[second]]
        upper = i <= k
        self._first, self._second = first[upper], second[upper]
        i, k = i[upper], k[upper]
        self.width = int((k - i).max()) if len(i) else 0
        self._slot = (self.width + i - k) * m + k

    def filled(self, slopes: Floats) -> Floats:
        """The banded part in upper band storage (width + 1, m)."""
        products = slopes[self._first] * slopes[self._second]
        return np.asarray(
            np.bincount(self._slot, products, (self.width + 1) * self.m).reshape(self.width + 1, self.m), dtype=float
        )

    def factored(self, slopes: Floats, damping: float) -> Factor | None:
        """What `solve` needs, with `damping` on the diagonal; None where the matrix is not positive."""
        budget.spend(_PRODUCT * len(self._slot) / 4 + _PIVOT * self.m * (self.width + 1) * (self.width + 30))
        band = factored(self.filled(slopes), max(damping, _BORDER) if len(self.hubs) else damping)
        if band is None:
            return None
        if not len(self.hubs):
            return Factor(band, None, None)
        hub = np.zeros((self.m, len(self.hubs)))
        np.add.at(hub, (self.rows[self._hub_entries], self._hub_at), slopes[self._hub_entries])
        solved = self._banded(band, hub)
        return Factor(band, hub, (solved, np.eye(len(self.hubs)) + hub.T @ solved))

    def solve(self, factor: Factor, right: Floats) -> Floats:
        """(J·D·Jᵀ)⁻¹·right; `right` (m,) or (m, k)."""
        y = self._banded(factor.band, right)
        if factor.hub is None or factor.border is None:
            return y
        solved, small = factor.border
        return np.asarray(y - solved @ np.linalg.solve(small, factor.hub.T @ y))

    def _banded(self, band: Floats, right: Floats) -> Floats:
        ordered = np.empty_like(right)
        ordered[self.place] = right
        return np.asarray(cho_solve_banded((band, False), ordered))[self.place]

    def transposed(self, slopes: Floats, y: Floats) -> Floats:
        """Jᵀ·y, (n,)."""
        return np.asarray(np.bincount(self.columns, slopes * y[self.rows], self.n), dtype=float)

    def times(self, slopes: Floats, x: Floats) -> Floats:
        """J·x, (m,)."""
        return np.asarray(np.bincount(self.rows, slopes * x[self.columns], self.m), dtype=float)


@dataclass(frozen=True)
class Factor:
    """A factored band, and its border if it has one: the hub columns, B⁻¹H, and the small matrix."""

    band: Floats
    hub: Floats | None
    border: tuple[Floats, Floats] | None

    @property
    def least(self) -> float:
        """The least pivot."""
        return float(self.band[-1].min())


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
