"""Solids scaled, mirrored and carried elsewhere without losing their kinds of surface."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Ax2, gp_Trsf, gp_Vec

from supplecast.errors import KernelError
from supplecast.geometry import Frame, Vec
from supplecast.kernel import integrate
from supplecast.kernel.history import FaceOf, Ledger, Made, Origin
from supplecast.kernel.profile import direction, point
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


def mirror(solid: Solid, frame: Frame) -> Made:
    """The solid seen in a plane's mirror; every face is new, in the role `mirror` of its original."""
    transform = gp_Trsf()
    transform.SetMirror(gp_Ax2(point(frame.origin), direction(frame.normal)))
    return _copied(solid, transform, "mirror", "mirroring")


def shifted(solid: Solid, by: Vec, role: str) -> Made:
    """A copy carried by a vector in mm; every face is new, in the given role of its original."""
    transform = gp_Trsf()
    transform.SetTranslation(gp_Vec(*by))
    return _copied(solid, transform, role, "copying")


def _copied(solid: Solid, transform: gp_Trsf, role: str, doing: str) -> Made:
    maker = BRepBuilderAPI_Transform(solid.shape, transform, True)
    ledger = Ledger([one(maker.Shape(), doing)])
    for face in range(solid.face_count):
        ledger.note(maker.ModifiedShape(solid.face(face)), Origin(role, (FaceOf(0, face),)))
    return ledger.made()[0]
