"""Volume, area, centroid and second moments of a dozen bodies, here and far off: closed forms and adaptive quadrature."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from supplecast.geometry import Vec
from supplecast.kernel import integrate, move
from supplecast.kernel.shapes.shape import Solid
from tests.referee.known import BODIES, Known


@pytest.mark.parametrize("far", [(0.0, 0.0, 0.0), (1000.0, -700.0, 400.0)], ids=["here", "far"])
@pytest.mark.parametrize("made", BODIES, ids=lambda made: made.__name__)
def test_moments_are_exact_wherever_a_body_lies(made: Callable[[], tuple[Solid, Known]], far: Vec) -> None:
    body, known = made()
    size = known.volume ** (1 / 3)
    got = integrate.moments(move.moved(body, move.shift(far)).solid if any(far) else body)
    assert got.volume == pytest.approx(known.volume, rel=1e-9)
    if known.area is not None:
        assert got.area == pytest.approx(known.area, rel=1e-9)
    assert got.centroid - far == pytest.approx(np.array(known.centroid), abs=1e-9 * max(size, 10))
    assert np.diag(got.second) == pytest.approx(known.second, rel=1e-9)
