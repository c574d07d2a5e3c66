"""Solids set elsewhere, for tests that need two of them."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf, gp_Vec

from supplecast.geometry import Vec
from supplecast.kernel.shapes.history import Ledger, Made
from supplecast.kernel.shapes.shape import Solid
from supplecast.kernel.shapes.soundness import one


def shifted(solid: Solid, by: Vec) -> Made:
    transform = gp_Trsf()
    transform.SetTranslation(gp_Vec(*by))
    maker = BRepBuilderAPI_Transform(solid.shape, transform, True)
    ledger = Ledger([one(maker.Shape(), "moving")])
    ledger.kept([solid], maker.Modified)
    return ledger.made()[0]
