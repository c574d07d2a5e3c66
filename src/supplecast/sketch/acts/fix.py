"""Holding: constraints and sizes added, retyped, made driven, relabelled."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from supplecast.errors import SketchError
from supplecast.sketch import sizing
from supplecast.sketch.acts import Act, Text
from supplecast.sketch.acts.branch import run_on, settle_radius
from supplecast.sketch.acts.copies import recount
from supplecast.sketch.acts.draw import Place
from supplecast.sketch.belongings import Id
from supplecast.sketch.model import SIZED, Constraint, ConstraintType, ends_of
from supplecast.sketch.pen import Pen


class Hold(Act):
    """Add a constraint or a size. A size without a value takes the one it measures."""

    words = "Fix"
    do: Literal["hold"] = "hold"
    type: ConstraintType
    names: Annotated[tuple[Id, ...], Field(min_length=1, max_length=4, alias="on")]
    value: Text | None = None
    driven: bool = False
    sector: Annotated[int, Field(ge=0, le=3)] = 0
    label: Place | None = None

    @property
    def title(self) -> str:
        return self.type.capitalize()

    def on(self, pen: Pen) -> None:
        names, kind = self.names, self.type
        if kind == "coincident" and len(names) == 2 and all(name in pen.drawing.points for name in names):
            pen.weld(*names)
            return
        if kind == "tangent" and len(names) == 2:
            shared = set(ends_of(pen.shape(names[0]))) & set(ends_of(pen.shape(names[1])))
            names = (*names, min(shared)) if shared else names
        value = self.value
        if kind in SIZED and not value:
            value = sizing.shown(sizing.measure(pen.drawing, kind, names, self.sector), kind, pen.scope.unit)
        held = pen.hold(kind, *names, value=value, driven=self.driven, sector=self.sector, label=self.label)
        wrong = pen.drawing.faults()
        if wrong:
            del pen.drawing.constraints[held]
            raise SketchError(f"That cannot be fixed: {wrong.split(') ', 1)[-1]}.", "Pick what the constraint needs.")
        if kind == "tangent" and len(names) == 3:
            run_on(pen, *names)
        _settle(pen, held)
        pen.made.append(held)


def _settle(pen: Pen, name: str) -> None:
    held = pen.drawing.constraints[name]
    if held.type in ("radius", "diameter") and not held.driven and held.value:
        value = pen.scope.evaluate(held.value, "length")
        settle_radius(pen, held.on[0], value / 2 if held.type == "diameter" else value)


def _size(pen: Pen, name: str) -> Constraint:
    held = pen.drawing.constraints.get(name)
    if held is None or held.value is None:
        raise SketchError("That size is no longer in the sketch.", "Reload the page.")
    return held


class Retype(Act):
    """Type another value for a size; sizes of one group follow. The size of copies in a row or ring is their count."""

    words = "Size"
    do: Literal["retype"] = "retype"
    constraint: Id
    value: Text

    @property
    def title(self) -> str:
        return f"Size {self.value}"

    def on(self, pen: Pen) -> None:
        if self.constraint in pen.drawing.series:
            recount(pen, self.constraint, self.value)
            return
        held = _size(pen, self.constraint)
        alike = [k for k, other in pen.drawing.constraints.items() if held.group and other.group == held.group]
        for name in alike or [self.constraint]:
            pen.rehold(name, value=self.value)
            _settle(pen, name)


class Drive(Act):
    """Let a size only measure, or hold again what it measures."""

    words = "Driven size"
    do: Literal["drive"] = "drive"
    constraint: Id
    driven: bool

    def on(self, pen: Pen) -> None:
        held = _size(pen, self.constraint)
        if self.driven:
            pen.rehold(self.constraint, driven=True)
            return
        value = sizing.shown(sizing.measure(pen.drawing, held.type, held.on, held.sector), held.type, pen.scope.unit)
        pen.rehold(self.constraint, driven=False, value=value)


class Relabel(Act):
    """Put the label of a size elsewhere."""

    words = "Move a label"
    do: Literal["label"] = "label"
    constraint: Id
    at: Place

    def on(self, pen: Pen) -> None:
        if self.constraint in pen.drawing.series:
            pen.drawing.series[self.constraint] = pen.drawing.series[self.constraint].model_copy(update={"label": self.at})
            return
        _size(pen, self.constraint)
        pen.rehold(self.constraint, label=self.at)


class Dimension(Act):
    """A size between what is picked, of the kind that suits it and the place of its label.

    Two points: aligned, or level or upright where the label lies beside them. A line: its length. A point and a line, or two
    parallel lines: their distance. Two lines: the angle of the sector that the label lies in. A round: its diameter, an arc:
    its radius. With a round and something else: to its centre, or to the near or far side, as `kind` says.
    """

    words = "Size"
    do: Literal["size"] = "size"
    names: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2, alias="on")]
    label: Place
    kind: Annotated[str, Field(max_length=20)] = ""
    value: Text | None = None
    driven: bool = False

    def on(self, pen: Pen) -> None:
        kind, names, sector = sizing.suited(pen.drawing, self.names, self.label, self.kind)
        fields = {"type": kind, "on": names, "value": self.value, "driven": self.driven, "sector": sector, "label": self.label}
        Hold.model_validate(fields).on(pen)
