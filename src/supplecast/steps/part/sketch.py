"""Sketch: an outline of typed figures on a plane."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from pydantic import Field, ValidationError, model_validator

from supplecast import kernel
from supplecast.curves import Curve2
from supplecast.document import handling
from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec, PlaneField, PlanePick
from supplecast.document.state import OpenOutline
from supplecast.document.step import Before, Step
from supplecast.errors import DocumentError, KernelError, MisfitError, QuantityError, StepError, SuppleError
from supplecast.geometry import Frame
from supplecast.naming import EdgeRef
from supplecast.quantities import Scope
from supplecast.sketch import figures, regions, solver
from supplecast.sketch.acts.take import moved_to
from supplecast.sketch.belongings import Taken
from supplecast.sketch.called import named, said
from supplecast.sketch.model import ANGLES, ORIGIN, Constraint, Drawing, stands_on
from supplecast.sketch.sizing import radii_of
from supplecast.sketch.work import copied
from supplecast.wording import show


class Sketch(Drawing, Step):
    """Points, entities and constraints on a plane; `draw` takes typed figures and turns them into these on reading.

    Example: {"id": "k3f", "type": "sketch", "on": {"plane": "top"},
    "draw": [{"kind": "rectangle", "width": "124 mm", "height": "72 mm", "radius": "8 mm"}]}
    """

    type: Literal["sketch"] = "sketch"
    word = "Sketch"
    purpose = "an outline on a plane or a flat face"
    search = "outline drawing profile draw circle rectangle line photo picture trace"
    follows = ""
    picture = ("M3 21h26", "M6 17V7h12a5 5 0 0 1 0 10z")
    suits = ("faces",)

    on: PlaneField = PlanePick(plane="top")
    draw: list[figures.FigureRequest] = Field(default_factory=list, max_length=100)

    @model_validator(mode="after")
    def _place_figures(self) -> Sketch:
        for number, request in enumerate(self.draw):
            # Named values are not known yet: figures that use them start from a plain guess and are solved later.
            try:
                figures.place(self, request, _Guess())
            except SuppleError as fault:
                field = getattr(fault, "field", "")
                raise MisfitError(str(fault), f".draw[{number}]" + (f".{field}" if field else "")) from fault
        self.draw.clear()
        wrong = self.faults()
        if wrong:
            raise ValueError(wrong)
        return self

    def sentence(self) -> str:
        return "Sketch {name} on {on}"

    @property
    def label(self) -> str:
        """Its name; one that was numbered by itself also says what is drawn: “Sketch 3, circles”."""
        if not re.fullmatch(r"Sketch \d+", self.name):
            return super().label
        drawn: list[str] = [figure.kind for figure in self.figures.values()]
        drawn = drawn or [entity.type for entity in self.entities.values() if not entity.construction]
        kinds = sorted(set(drawn), key=drawn.count)
        if not kinds:
            return self.name
        return f"{self.name}, {kinds[-1]}{'s' if drawn.count(kinds[-1]) > 1 or len(kinds) > 1 else ''}"

    def details(self) -> list[tuple[str, str]]:
        """One line for each figure, and for each size that belongs to none: its id and its words."""
        lines = []
        for name, figure in self.figures.items():
            sizes = {label: f"{{figures.{name}.{label}}}" for label in figure.sizes}
            lines.append((name, _WORDS[figure.kind](figure.note, sizes)))
        own = tuple(f"{name}_" for name in self.figures)
        groups: set[str] = set()
        for name, constraint in self.constraints.items():
            if constraint.group in groups:
                continue  # one line speaks for all sizes that are one
            groups |= {constraint.group} if constraint.group else set()
            if not name.startswith(own) and constraint.value is not None and not constraint.driven:
                held = " and ".join(named(self, part) for part in constraint.on)
                lines.append((name, f"{constraint.type} {{constraints.{name}.value}} of {held}"))
        return lines

    def typed(self, path: str) -> str:
        if not path.startswith(("figures.", "constraints.")):
            return super().typed(path)
        return self.constraints[self._held_by(path)].value or ""

    def retyped(self, path: str, value: Any) -> dict[str, Any]:
        if not path.startswith(("figures.", "constraints.")):
            return super().retyped(path, value)
        held = self._held_by(path)
        whole = self.model_dump(mode="json")
        group = self.constraints[held].group
        for name, constraint in whole["constraints"].items():
            if name == held or (group and constraint["group"] == group):
                constraint["value"] = str(value)
        return whole

    def _held_by(self, path: str) -> str:
        """The constraint that carries a size, by a path such as `figures.f1.width` or `constraints.k2.value`."""
        kind, name, label = (*path.split("."), "", "")[:3]
        if kind == "constraints" and name in self.constraints and self.constraints[name].value is not None:
            return name
        figure = self.figures.get(name)
        if figure is None or label not in figure.sizes:
            raise DocumentError(f"The sketch has no size “{path}”.", "Reload the page.")
        return figure.sizes[label].constraint

    def spec_of(self, path: str) -> FieldSpec:
        """Angles among the sizes of figures are typed in degrees, all others as lengths."""
        if not path.startswith(("figures.", "constraints.")):
            return super().spec_of(path)
        return FieldSpec("angle" if self.constraints[self._held_by(path)].type in ANGLES else "length")

    @classmethod
    def fresh(cls, before: Before, picked: Sequence[dict[str, Any]]) -> dict[str, Any]:
        face = next((pick for pick in picked if "face" in pick), None)
        count = sum(step.type == "sketch" for step in before.steps)
        first = count == 0
        size = {"kind": "rectangle", "width": "80 mm", "height": "50 mm"} if first else {"kind": "circle", "diameter": "10 mm"}
        return {"on": face or {"plane": "top"}, "draw": [size], "name": "Outline" if first else f"Sketch {count + 1}"}

    def build(self, at: Builder) -> None:
        frame = at.frame("on")
        handling.plane(at, "on", self.on)
        names = {
            size.constraint: (f"figures.{figure}.{label}", not size.free)
            for figure, held in self.figures.items()
            for label, size in held.sizes.items()
        }

        def size(name: str, constraint: Constraint) -> float:
            path, positive = names.get(
                name, (f"constraints.{name}.value", constraint.type in ("radius", "diameter", "distance"))
            )
            text = constraint.value or ""
            if constraint.type in ANGLES:
                return at.evaluate(path, text, "angle")
            return at.length(path, text, "positive" if positive else "any")

        drawing = self._retaken(at, frame)
        solution = at.kernel("constraints", solver.solve, drawing, size)
        if solution.doubled:
            twice = "; ".join(said(self, name) for name in solution.doubled[:4])
            at.caution("constraints", f"Said twice: {twice}. Take one of them out.")
        for name, value in solution.driven.items():
            angle = self.constraints[name].type in ANGLES
            amount = f"{show(math.degrees(value), 2)}°" if angle else f"{at.in_unit(value)} {at.scope.unit}"
            at.note(f"{said(self, name)} measures {amount}")
        drawn = regions.curves(drawing, solution)
        areas = regions.areas(drawn)
        at.figure("area", sum(region.area for region in areas.filled))
        fault = regions.refusal(areas, drawn)
        if not self.entities:
            at.note("nothing is drawn yet")
        elif fault is not None:
            at.note(f"{fault.message} It bounds no area; it can serve as a path.")
        elif areas.gaps:
            x, y = areas.gaps[0].at
            count = len(areas.gaps)
            at.note(f"{count} open end{'s' if count > 1 else ''}, the first at ({x:.2f}, {y:.2f})")
        loose = solution.freedoms
        at.note("fully fixed" if loose == 0 else f"{loose} freedom{'s' if loose > 1 else ''} left")
        lineage = {name: entity.came_from for name, entity in self.entities.items() if entity.came_from}
        moving = frozenset(name for name, entity in self.entities.items() if solution.loose & {name, *stands_on(entity)})
        held = {point for name in drawing.taken for point in stands_on(drawing.entities[name])} & set(drawing.points)
        taken = {point: drawing.points[point] for point in sorted(held)}
        filled = frozenset(region.key for region in areas.filled)
        stood = {point for entity in self.entities.values() for point in stands_on(entity)}
        at.drawn(
            frame,
            areas.regions,
            drawn,
            loose,
            name=self.name or "Outline",
            lineage=lineage,
            fault=OpenOutline(fault.message, fault.hint) if fault else None,
            loose=moving,
            filled=filled,
            taken=taken,
            guides=tuple(regions.curves(drawing, solution, construction=True)),
            marks={name: place for name, place in solution.points.items() if name not in stood and name != ORIGIN},
        )

    def _retaken(self, at: Builder, frame: Frame) -> Drawing:
        """The drawing with everything that was taken from the model laid where the model now says."""
        if not self.taken:
            return self
        drawing = copied(self)
        known: dict[tuple[str, str], list[Curve2]] = {}
        gone = []
        for name, source in self.taken.items():
            curve = self._source(at, frame, name, source, known)
            if curve is None or not moved_to(drawing, name, curve):
                gone.append(named(self, name))
        if gone:
            at.caution("taken", f"No longer found in the model, and left where they were: {', '.join(gone[:6])}.")
        return drawing

    def _source(
        self, at: Builder, frame: Frame, name: str, source: Taken, known: dict[tuple[str, str], list[Curve2]]
    ) -> Curve2 | None:
        try:
            if source.how == "edge":
                holder, index = at.seek_edge(EdgeRef.model_validate(source.edge or {}), "taken") or (None, 0)
                return kernel.flatten.flattened(holder.body.solid, index, frame) if holder else None
            body = at.body(source.body, "taken")
            if (source.how, body.id) not in known:
                lay = kernel.flatten.section if source.how == "section" else kernel.flatten.silhouette
                known[(source.how, body.id)] = lay(body.body.solid, frame)
        except (StepError, KernelError, ValidationError):
            return None
        # Of a section or silhouette, the piece of the same kind that lies nearest to where it was.
        places = {ORIGIN: (0.0, 0.0), **self.points}
        mine = regions.curve(name, self, places, radii_of(self))
        spot = mine.at(np.array([0.5]))[0]
        alike = [curve for curve in known[(source.how, body.id)] if type(curve) is type(mine)]
        return min(alike, key=lambda curve: math.dist(curve.at(np.array([0.5]))[0], spot), default=None)


class _Guess(Scope):
    """A scope in which every named value is 10 mm, enough to lay a figure out before it is solved."""

    def evaluate(self, text: str, kind: Any) -> float:
        try:
            return super().evaluate(text, kind)
        except QuantityError:
            return 10.0 if kind == "length" else 0.0


def _rectangle(note: str, s: dict[str, str]) -> str:
    corners = f", corners {s['radius']}" if "radius" in s else ""
    where = "centre" if note == "centre" else "lower left corner"
    return f"rectangle {s['width']} × {s['height']}{corners}, {where} at {s['x']}, {s['y']}"


def _circle(note: str, s: dict[str, str]) -> str:
    return f"circle {s['diameter']} wide at {s['x']}, {s['y']}"


def _polygon(note: str, s: dict[str, str]) -> str:
    return f"polygon of {note}, {s['diameter']} over its corners, at {s['x']}, {s['y']}"


def _slot(note: str, s: dict[str, str]) -> str:
    return f"slot {s['length']} long, {s['width']} wide, turned {s['angle']}, at {s['x']}, {s['y']}"


_WORDS = {"rectangle": _rectangle, "circle": _circle, "polygon": _polygon, "slot": _slot}
