"""Point sampling as referee of a shell: inside the body, material is exactly what lies within the wall of the kept skin."""

from __future__ import annotations

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS_Compound

from supplecast.kernel import measure
from supplecast.kernel.shapes.shape import Solid


def mismatches(body: Solid, shelled: Solid, open_faces: list[int], wall: float, count: int, seed: int = 7) -> tuple[int, int]:
    """(wrong, judged) among random points inside `body`, those within 0.01 mm of the inner skin left out."""
    skin = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(skin)
    for face in range(body.face_count):
        if face not in open_faces:
            builder.Add(skin, body.face(face))
    box = measure.box(body)
    random = np.random.default_rng(seed)
    wrong = judged = 0
    while judged < count:
        at = gp_Pnt(*(float(v) for v in random.uniform(box.low, box.high)))
        if BRepClass3d_SolidClassifier(body.shape, at, 1e-7).State() != TopAbs_State.TopAbs_IN:
            continue
        distance = BRepExtrema_DistShapeShape(BRepBuilderAPI_MakeVertex(at).Vertex(), skin).Value()
        if abs(distance - wall) < 0.01:
            continue
        judged += 1
        material = BRepClass3d_SolidClassifier(shelled.shape, at, 1e-7).State() == TopAbs_State.TopAbs_IN
        wrong += material != (distance < wall)
    return wrong, judged
