"""Solids scaled, mirrored and carried elsewhere without losing their kinds of surface."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy, BRepBuilderAPI_GTransform, BRepBuilderAPI_Transform
from OCP.gp import gp_Ax1, gp_Ax2, gp_Ax3, gp_GTrsf, gp_Quaternion, gp_Trsf, gp_Vec, gp_XYZ
from OCP.TopoDS import TopoDS
from scipy.spatial.transform import Rotation

from supplecast.errors import KernelError
from supplecast.geometry import Axis, Floats, Frame, Mass, Vec
from supplecast.kernel.measuring import integrate, measure
from supplecast.kernel.shapes import lineage
from supplecast.kernel.shapes.history import FaceOf, Ledger, Made, Origin
from supplecast.kernel.shapes.mesh_body import MeshBody
from supplecast.kernel.shapes.profile import as_dir, as_point
from supplecast.kernel.shapes.shape import Solid, Surface, solids_in, xyz
from supplecast.kernel.shapes.soundness import one
from supplecast.kernel.verbs.recognise import recognised

_RIGID = 1e-6
_DIGITS = 12


@dataclass(frozen=True)
class Motion:
    """A way to carry solids elsewhere without changing their size: shift, turn or reflection."""

    trsf: Any

    @property
    def matrix(self) -> Floats:
        """Turn and shift in mm as one matrix, (3, 4)."""
        return np.array([[self.trsf.Value(row, column) for column in range(1, 5)] for row in range(1, 4)])


def scale(solid: Solid, factor: float, about: Vec) -> Made:
    """Every length times `factor` about a point; volume grows by factor³, exactly."""
    if factor <= 0:
        raise KernelError("The scale must be greater than zero.")
    transform = gp_Trsf()
    transform.SetScale(as_point(about), factor)
    if isinstance(solid, MeshBody):
        return _as_before(solid.moved(Motion(transform).matrix, factor), lambda face: Origin(None, (FaceOf(0, face),)))
    maker = BRepBuilderAPI_Transform(solid.shape, transform, True)
    ledger = Ledger([one(maker.Shape(), "scaling")])
    ledger.kept([solid], maker.Modified)
    made = ledger.made()[0]
    if about == (0.0, 0.0, 0.0):
        pairs = [(origins[0].sources[0], new) for new, origins in enumerate(made.origins) if origins]
        integrate.scaled(solid, made.solid, [(old.face, new) for old, new in pairs if isinstance(old, FaceOf)], factor)
    return made


def stretch(solid: Solid, factors: Vec, about: Vec) -> Made:
    """Lengths times a factor of their own along x, y and z about a point; volume grows by the product.

    Flats stay flat, rounds about an axis with equal factors across it stay round; other rounds become free faces.
    """
    if any(factor <= 0 for factor in factors):
        raise KernelError("Each scale must be greater than zero.")
    if len(set(factors)) == 1:
        return scale(solid, factors[0], about)
    transform = gp_GTrsf()
    for row, factor in enumerate(factors, 1):
        transform.SetValue(row, row, factor)
    transform.SetTranslationPart(gp_XYZ(*(a * (1 - f) for a, f in zip(about, factors, strict=True))))
    # Of a shell that shares curves with what it was made from, the kernel makes a shape on which its own check comes down.
    copier = BRepBuilderAPI_Copy(solid.shape)
    maker = BRepBuilderAPI_GTransform(copier.Shape(), transform, True)
    ledger = Ledger([one(maker.Shape(), "scaling")])
    for face in range(solid.face_count):
        copy = copier.ModifiedShape(solid.face(face))
        ledger.note(maker.ModifiedShape(copy), Origin(None, (FaceOf(0, face),)))
    made = recognised(ledger.made()[0])
    # The kernel's own integral is off by 1 % on free faces that close on themselves.
    want = measure.volume(solid) * factors[0] * factors[1] * factors[2]
    if abs(measure.volume(made.solid) - want) > 1e-6 * want:
        raise KernelError("The scaling came out wrong: its volume does not fit.", "Scale evenly, or simplify the body.")
    return made


def shift(by: Vec) -> Motion:
    """Carrying by a vector, mm."""
    motion = gp_Trsf()
    motion.SetTranslation(gp_Vec(*by))
    return Motion(motion)


def turn(axis: Axis, angle: float) -> Motion:
    """Turning by `angle` rad about an axis."""
    motion = gp_Trsf()
    motion.SetRotation(gp_Ax1(as_point(axis.point), as_dir(axis.direction)), angle)
    return Motion(motion)


def reflection(frame: Frame) -> Motion:
    """Mirroring in a plane."""
    motion = gp_Trsf()
    motion.SetMirror(gp_Ax2(as_point(frame.origin), as_dir(frame.normal)))
    return Motion(motion)


def seat(moved: Frame, onto: Frame) -> Motion:
    """Carrying one frame onto another."""
    motion = gp_Trsf()
    motion.SetDisplacement(*(gp_Ax3(as_point(f.origin), as_dir(f.normal), as_dir(f.x)) for f in (moved, onto)))
    return Motion(motion)


def by_rows(rows: Sequence[float]) -> Motion:
    """A turn and a shift in mm by the twelve numbers of their matrix (3, 4). KernelError if it is none."""
    matrix = np.array(rows, dtype=np.float64).reshape(3, 4)
    turn = matrix[:, :3]
    if np.abs(turn @ turn.T - np.eye(3)).max() > _RIGID or np.linalg.det(turn) < 0:
        raise KernelError("A place is given that no body can be carried to.", "Open the part from its assembly again.")
    # Of a matrix the kernel would take what rounding left of its size for a scale.
    motion = gp_Trsf()
    x, y, z, w = Rotation.from_matrix(turn).as_quat()
    motion.SetTransformation(gp_Quaternion(float(x), float(y), float(z), float(w)), gp_Vec(*map(float, matrix[:, 3])))
    return Motion(motion)


def between(solid: Solid, moved: Solid) -> Floats | None:
    """The turn and shift (3, 4) that carried a body to where another one is; None if that is another shape, or mirrored.

    By their corners and centroids, which come in the same order (Kabsch 1976).
    """
    places = [np.vstack([measure.corners(one), [measure.mass(one).centroid]]) for one in (solid, moved)]
    if places[0].shape != places[1].shape:
        return None
    middles = [rows.mean(axis=0) for rows in places]
    u, _, v = np.linalg.svd((places[0] - middles[0]).T @ (places[1] - middles[1]))
    turn = v.T @ np.diag([1.0, 1.0, float(np.sign(np.linalg.det(v.T @ u.T)))]) @ u.T
    shift = middles[1] - turn @ middles[0]
    size = max(measure.loose_box(solid).diagonal, 1e-9)
    if np.abs(places[0] @ turn.T + shift - places[1]).max() > _RIGID * size:
        return None
    rows: Floats = np.hstack([turn, shift[:, None]]).round(_DIGITS) + 0.0
    return rows


def direction(direction_: Vec, motion: Motion) -> Vec:
    """Where a direction points after a motion."""
    turned = gp_Vec(*direction_).Transformed(motion.trsf)
    return (turned.X(), turned.Y(), turned.Z())


def edge(shape: Any, motion: Motion) -> Any:
    """An edge of the kernel carried elsewhere."""
    return TopoDS.Edge(BRepBuilderAPI_Transform(shape, motion.trsf, True).Shape())


def then(first: Motion, second: Motion) -> Motion:
    """One motion after another."""
    return Motion(second.trsf.Multiplied(first.trsf))


def mirror(solid: Solid, frame: Frame) -> Made:
    """The solid seen in a plane's mirror; every face is new, in the role `mirror` of its original."""
    return copied(solid, reflection(frame), "mirror")


def copied(solid: Solid, motion: Motion, role: str) -> Made:
    """A copy carried elsewhere; every face is new, in the given role of its original."""
    return _carried(solid, motion, lambda face: Origin(role, (FaceOf(0, face),)))


def moved(solid: Solid, motion: Motion) -> Made:
    """The solid itself carried elsewhere; its faces stay the same ones."""
    return _carried(solid, motion, lambda face: Origin(None, (FaceOf(0, face),)))


def carried(made: Made, motion: Motion) -> Made:
    """A newly made solid carried elsewhere, its faces told as before."""
    there = moved(made.solid, motion)
    sources = [row[0].sources[0] for row in there.origins]
    return Made(there.solid, tuple(made.origins[s.face] for s in sources if isinstance(s, FaceOf)))


def _carried(solid: Solid, motion: Motion, origin: Callable[[int], Origin]) -> Made:
    if isinstance(solid, MeshBody):
        return _as_before(solid.moved(motion.matrix), origin)
    maker = BRepBuilderAPI_Transform(solid.shape, motion.trsf, True)
    # No motion makes a sound solid unsound, so that the check, which takes longer than all else, is left out.
    result = solids_in(maker.Shape())[0] if solid.closed else Surface(maker.Shape())
    ledger = Ledger([result])
    for face in range(solid.face_count):
        ledger.note(maker.ModifiedShape(solid.face(face)), origin(face))
    made = ledger.made()[0]
    lineage.note_carried(made.solid, solid, motion.matrix)
    known = measure.MASS.known(solid)
    if known is not None:  # it weighs what it did, wherever it is
        centre = as_point(known.centroid).Transformed(motion.trsf)
        measure.MASS.keep(made.solid, Mass(known.volume, known.area, xyz(centre)))
    return made


def _as_before(body: MeshBody, origin: Callable[[int], Origin]) -> Made:
    """A mesh body whose faces are told by those that have the same number."""
    return Made(body, tuple((origin(face),) for face in range(body.face_count)))
