"""A document taken to another unit: the same size under new labels, or the same numbers at a new size."""

from __future__ import annotations

import re
from collections.abc import Callable

from supplecast.document.fields import row_model, spec_in
from supplecast.document.model import Document, read_step
from supplecast.document.step import Step
from supplecast.expressions import LENGTH_UNITS
from supplecast.quantities import restated
from supplecast.sketch.model import ANGLES, Drawing
from supplecast.wording import show

_FIELD = re.compile(r"{([\w.]+)}")
_WITH_UNIT = re.compile(r"\s*(-?(?:\d+\.?\d*|\.\d+))\s*(mm|cm|m|in)\s*")


def relabelled(document: Document, unit: str) -> Document:
    """Every length typed as a bare number gets the unit it had, so that nothing changes its size."""
    scope = document.scope
    return document.altered(
        unit=unit, steps=[_retyped(step, lambda text: restated(text, scope, unit)) for step in document.steps]
    )


def renumbered(document: Document, unit: str, *, all_of_them: bool = False) -> Document:
    """Bare numbers stay and mean the new unit, and what was drawn without a size grows or shrinks along; `all_of_them`: so do
    the numbers that are typed with the old unit.
    """
    factor = LENGTH_UNITS[unit] / LENGTH_UNITS[document.unit]
    old = document.unit
    steps = [_retyped(step, lambda text: _bare(text, old)) for step in document.steps] if all_of_them else document.steps
    return document.altered(unit=unit, steps=[_grown(s, factor) if isinstance(s, Drawing) else s for s in steps])


def with_units(document: Document) -> list[str]:
    """The lengths of the sheet that are typed with a unit, and so keep their size when the document's unit changes: each by its
    step, its field and its text.
    """
    held = []
    for step in document.steps:
        sentences = [step.sentence(), *(words for _, words in step.details())]
        for path in dict.fromkeys(path for words in sentences for path in _FIELD.findall(words)):
            offset = f"{path}.offset" if step.spec_of(path).kind == "plane" else path
            text = step.typed(offset)
            plain = _WITH_UNIT.fullmatch(text)
            if plain and float(plain[1]):
                held.append(f"{step.label} {offset.rpartition('.')[2].replace('_', ' ')} {text}")
    return held


def _bare(text: str, unit: str) -> str:
    plain = _WITH_UNIT.fullmatch(text)
    return plain[1] if plain and plain[2] == unit else text


def preset(text: str, unit: str) -> str:
    """A length in mm that a new step suggests, as a round one of a unit: `2 mm` is `0.08 in`. Other texts stay as they are."""
    plain = _WITH_UNIT.fullmatch(text)
    if plain is None or plain[2] != "mm" or unit == "mm":
        return text
    value = float(plain[1]) / LENGTH_UNITS[unit]
    return f"{show(value if unit != 'in' else float(f'{value:.1g}'))} {unit}"


def at_home(step: Step, unit: str) -> Step:
    """A new step with the lengths that it suggests in the document's unit."""
    return _retyped(step, lambda text: preset(text, unit))


def _retyped(step: Step, retype: Callable[[str], str]) -> Step:
    """A step with every length in it typed otherwise."""
    data = step.model_dump(mode="json")
    for name in type(step).model_fields:
        kind = step.spec(name).kind
        if kind == "length" and data.get(name):
            data[name] = retype(str(data[name]))
        elif kind == "rows":
            model = row_model(type(step), name)
            lengths = [inner for inner in model.model_fields if spec_in(model, inner).kind == "length"]
            for row in data[name]:
                row.update({inner: retype(str(row[inner])) for inner in lengths if row.get(inner)})
        elif kind == "plane" and isinstance(data[name], dict) and data[name]["offset"] != "0":
            data[name]["offset"] = retype(data[name]["offset"])
    if isinstance(step, Drawing):
        for constraint in data["constraints"].values():
            if constraint["value"] is not None and constraint["type"] not in ANGLES:
                constraint["value"] = retype(constraint["value"])
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
