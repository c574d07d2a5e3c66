"""Solids scaled without losing their kinds of surface."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf

from supplecast.errors import KernelError
from supplecast.geometry import Vec
from supplecast.kernel import integrate
from supplecast.kernel.history import FaceOf, Ledger, Made
from supplecast.kernel.profile import point
from supplecast.kernel.shape import Solid, one


def scale(solid: Solid, factor: float, about: Vec) -> Made:
    """Every length times `factor` about a point; volume grows by factor³, exactly."""
    if factor <= 0:
        raise KernelError("The scale must be greater than zero.")
    transform = gp_Trsf()
    transform.SetScale(point(about), factor)
    maker = BRepBuilderAPI_Transform(solid.shape, transform, True)
    ledger = Ledger([one(maker.Shape(), "scaling")])
    ledger.kept([solid], maker.Modified)
    made = ledger.made()[0]
    if about == (0.0, 0.0, 0.0):
        pairs = [(origins[0].sources[0], new) for new, origins in enumerate(made.origins) if origins]
        integrate.scaled(solid, made.solid, [(old.face, new) for old, new in pairs if isinstance(old, FaceOf)], factor)
    return made
