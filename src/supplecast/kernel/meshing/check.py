"""A second look at a finished solid, by means the verbs do not use: its triangles must close and weigh what it weighs."""

from __future__ import annotations

import numpy as np

from supplecast.kernel.measuring import measure
from supplecast.kernel.meshing import mesh
from supplecast.kernel.shapes.faults import REFUSALS
from supplecast.kernel.shapes.shape import Solid, is_valid

_FINE = 400.0  # the box's diagonal over the chord error


def faults(solid: Solid) -> list[str]:
    """What is wrong with a solid, in words; nothing when all is well.

    Checked: the kernel's own validity; every edge of the triangles is shared by two of opposite sense; the triangles enclose
    the volume, and have the area, that the exact integral gives, as near as the chord error allows.
    """
    reasons = [] if is_valid(solid) else ["the kernel calls it invalid"]
    box = measure.loose_box(solid)
    error = max(box.diagonal / _FINE, 1e-6)
    try:
        made = mesh.tessellate(solid, error, 0.3)
    except REFUSALS as fault:
        return [*reasons, f"it cannot be meshed: {fault}"]
    points, corners = made.welded()
    edges = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]])
    forward = np.sort(edges[:, 0].astype(np.int64) * len(points) + edges[:, 1])
    backward = np.sort(edges[:, 1].astype(np.int64) * len(points) + edges[:, 0])
    if len(forward) != len(backward) or (forward != backward).any():
        reasons.append("its triangles do not close")
    a, b, c = (points[corners[:, k]] for k in range(3))
    cross = np.cross(b - a, c - a)
    enclosed, skin = float((a * cross).sum()) / 6, float(np.linalg.norm(cross, axis=1).sum()) / 2
    exact = measure.mass(solid)
    slack = skin * error + 1e-6 * abs(exact.volume)
    if exact.volume <= 0:
        reasons.append(f"its volume is {exact.volume:.4g} mm³")
    elif abs(enclosed - exact.volume) > slack:
        reasons.append(f"it weighs {exact.volume:.6g} mm³, its triangles enclose {enclosed:.6g} mm³")
    if abs(skin - exact.area) > 0.05 * exact.area + slack:
        reasons.append(f"its area is {exact.area:.6g} mm², that of its triangles {skin:.6g} mm²")
    return reasons
