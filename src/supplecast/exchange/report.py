"""What a build came to, as plain data: steps and bodies with their measures."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from supplecast import kernel
from supplecast.document.model import Document
from supplecast.document.rebuild import Built
from supplecast.document.state import Entry, Outcome


def report(document: Document, built: Built) -> dict[str, Any]:
    """JSON-ready report of one built document; lengths in mm, areas mm², volumes mm³."""
    steps = {step.id: step for step in document.steps}
    return {
        "document": document.id,
        "name": document.name,
        "kind": document.kind,
        "ok": built.ok,
        "steps": [step_report(outcome, steps[outcome.step].type) for outcome in built.outcomes],
        "bodies": [body_report(entry) for entry in built.state.bodies.values()],
    }


def step_report(outcome: Outcome, kind: str) -> dict[str, Any]:
    return {
        "id": outcome.step,
        "type": kind,
        "status": outcome.status,
        "field": outcome.field,
        "message": " ".join(words for words in (outcome.message, outcome.hint) if words),
        "notes": list(outcome.notes),
        "readings": [asdict(reading) for reading in outcome.readings],
        "flags": [asdict(flag) for flag in outcome.flags],
        "culprits": [dict(pick) for pick in outcome.culprits],
        "sized": outcome.sized,
        "figures": dict(outcome.figures),
        "ms": round(outcome.ms, 1),
    }


def body_report(entry: Entry) -> dict[str, Any]:
    solid = entry.body.solid
    mass, box = kernel.measure.mass(solid), kernel.measure.box(solid)
    return {
        "id": entry.id,
        "name": entry.name,
        "role": entry.role,
        "volume_mm3": mass.volume,
        "area_mm2": mass.area,
        "centroid_mm": list(mass.centroid),
        "bbox_mm": {"min": list(box.low), "max": list(box.high)},
        "solids": int(entry.role != "surface"),
        "faces": solid.face_count,
        "valid": kernel.shape.is_valid(solid),
    }
