"""What a build came to: steps and bodies with their measures."""

from __future__ import annotations

from supplecast import kernel
from supplecast.document.model import Document
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry
from supplecast.wire.reports import BodyReport, Box, DocumentReport, StepReport


def report(document: Document, built: Built) -> DocumentReport:
    """The report of one built document."""
    steps = {step.id: step for step in document.steps}
    return DocumentReport(
        document.id,
        document.name,
        document.kind,
        built.ok,
        [StepReport.of(outcome, steps[outcome.step].type) for outcome in built.outcomes],
        [_body(entry) for entry in built.state.bodies.values()],
    )


def _body(entry: Entry) -> BodyReport:
    solid = entry.body.solid
    mass, box = kernel.measure.mass(solid), kernel.measure.box(solid)
    return BodyReport(
        id=entry.id,
        name=entry.name,
        role=entry.role,
        volume_mm3=mass.volume,
        area_mm2=mass.area,
        centroid_mm=mass.centroid,
        second_mm5=kernel.measure.second_moments(solid),
        bbox_mm=Box(box.low, box.high),
        solids=int(entry.is_own),
        faces=solid.face_count,
        valid=kernel.shape.is_valid(solid),
    )
