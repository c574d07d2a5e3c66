"""Solids moved, turned and scaled without losing their kinds of surface."""

from __future__ import annotations

from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf, gp_Vec

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
    made = _transformed(solid, transform, "scaling")
    if about == (0.0, 0.0, 0.0):
        pairs = [(origins[0].sources[0], new) for new, origins in enumerate(made.origins) if origins]
        integrate.scaled(solid, made.solid, [(old.face, new) for old, new in pairs if isinstance(old, FaceOf)], factor)
    return made


def shift(solid: Solid, by: Vec) -> Made:
    transform = gp_Trsf()
    transform.SetTranslation(gp_Vec(*by))
    return _transformed(solid, transform, "moving")


def _transformed(solid: Solid, transform: Any, doing: str) -> Made:
    maker = BRepBuilderAPI_Transform(solid.shape, transform, True)
    ledger = Ledger([one(maker.Shape(), doing)])
    ledger.kept([solid], maker.Modified)
    return ledger.made()[0]
