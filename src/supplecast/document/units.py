"""A document taken to another unit: the same size under new labels, or the same numbers at a new size."""

from __future__ import annotations

import re

from supplecast.document.fields import row_model, spec_in
from supplecast.document.model import Document, read_step
from supplecast.document.step import Step
from supplecast.quantities import LENGTH_UNITS, restated
from supplecast.sketch.model import ANGLES, Drawing
from supplecast.wording import show


def relabelled(document: Document, unit: str) -> Document:
    """Every length typed as a bare number gets the unit it had, so that nothing changes its size."""
    return document.altered(unit=unit, steps=[_restated(step, document, unit) for step in document.steps])


def renumbered(document: Document, unit: str) -> Document:
    """Bare numbers stay and mean the new unit; what was drawn without a size grows or shrinks along."""
    factor = LENGTH_UNITS[unit] / LENGTH_UNITS[document.unit]
    steps = [_grown(step, factor) if isinstance(step, Drawing) else step for step in document.steps]
    return document.altered(unit=unit, steps=steps)


_PLAIN = re.compile(r"(-?\d+(?:\.\d+)?) mm")


def preset(text: str, unit: str) -> str:
    """A length in mm that a new step suggests, as a round one of a unit: `2 mm` is `0.08 in`. Other texts stay as they are."""
    plain = _PLAIN.fullmatch(text)
    if plain is None or unit == "mm":
        return text
    value = float(plain[1]) / LENGTH_UNITS[unit]
    return f"{show(value if unit != 'in' else float(f'{value:.1g}'))} {unit}"


def at_home(step: Step, unit: str) -> Step:
    """A new step with the lengths that it suggests in the document's unit."""
    data = step.model_dump(mode="json")
    for name in type(step).model_fields:
        if step.spec(name).kind == "length" and isinstance(data.get(name), str):
            data[name] = preset(data[name], unit)
        elif step.spec(name).kind == "plane" and isinstance(data.get(name), dict):
            data[name]["offset"] = preset(data[name]["offset"], unit)
    return read_step(data, step.label)


def _restated(step: Step, document: Document, unit: str) -> Step:
    data = step.model_dump(mode="json")
    for name in type(step).model_fields:
        if step.spec(name).kind == "length" and data.get(name):
            data[name] = restated(str(data[name]), document.scope, unit)
        elif step.spec(name).kind == "rows":
            model = row_model(type(step), name)
            lengths = [inner for inner in model.model_fields if spec_in(model, inner).kind == "length"]
            for row in data[name]:
                row.update({inner: restated(str(row[inner]), document.scope, unit) for inner in lengths if row.get(inner)})
        elif step.spec(name).kind == "plane" and data[name]["offset"] != "0":
            data[name]["offset"] = restated(data[name]["offset"], document.scope, unit)
    if isinstance(step, Drawing):
        for constraint in data["constraints"].values():
            if constraint["value"] is not None and constraint["type"] not in ANGLES:
                constraint["value"] = restated(constraint["value"], document.scope, unit)
    return read_step(data, step.label)


def _grown(step: Drawing, factor: float) -> Step:
    """A drawing's loose coordinates times a factor."""
    assert isinstance(step, Step)
    data = step.model_dump(mode="json")
    data["points"] = {name: [x * factor, y * factor] for name, (x, y) in data["points"].items()}
    for entity in data["entities"].values():
        if "r" in entity:
            entity["r"] *= factor
    return read_step(data, step.label)
