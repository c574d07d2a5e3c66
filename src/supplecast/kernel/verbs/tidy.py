"""Flush faces of a solid made one."""

from __future__ import annotations

from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain

from supplecast.kernel.shapes.history import Ledger, Made, composed
from supplecast.kernel.shapes.soundness import one


def unified(made: Made, doing: str) -> Made:
    """The same solid with faces that lie on one surface, side by side, joined; a joined face keeps all its origins."""
    maker = ShapeUpgrade_UnifySameDomain(made.solid.shape, True, True, False)
    maker.Build()
    ledger = Ledger([one(maker.Shape(), doing)])
    ledger.kept([made.solid], maker.History().Modified)
    return composed(made, ledger.made()[0])
