"""manifold3d as referee: watertightness, volumes and overlaps from triangles."""

from __future__ import annotations

import manifold3d
import numpy as np

from supplecast.kernel import mesh
from supplecast.kernel.shapes.shape import Solid


def manifold(solid: Solid, deflection: float = 0.02, angle: float = 0.15) -> manifold3d.Manifold:
    """The solid's triangles as a manifold; raises AssertionError if they are not watertight."""
    points, triangles = mesh.tessellate(solid, deflection, angle).welded()
    body = manifold3d.Manifold(manifold3d.Mesh64(points, triangles.astype(np.uint64)))
    assert body.status() == manifold3d.Error.NoError
    return body
