"""Where something lies: planes, axes, points. Standard ones and datums are in a list, others are picked on the model."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from supplecast.document import words
from supplecast.document.fields import AxisPick, PlanePick, Spot
from supplecast.sketch.called import named
from supplecast.sketch.model import Drawing
from supplecast.web.controls import Control, Entry, Place, Token
from supplecast.web.controls.typed import number


class Plane(Control):
    """A plane; its offset, and its tilt once it has one, are typed beside it."""

    kinds = ("plane",)

    def tokens(self, place: Place) -> Iterator[Token]:
        value: PlanePick = place.value
        path, rest = place.path, {"offset": value.offset, "tilt": value.tilt, "about": value.about}
        options = [(name, f"{name} plane") for name in ("top", "front", "side")]
        settings: dict[str, Any] = {name: {"plane": name, **rest} for name, _ in options}
        for step in place.above:
            if step.type == "plane":
                options.append((f"datum:{step.id}", step.label))
                settings[f"datum:{step.id}"] = {"datum": step.id, **rest}
        chosen = value.plane or (f"datum:{value.datum}" if value.datum else "face")
        held = value.model_dump(mode="json", exclude_none=True, exclude_defaults=True, exclude={"offset", "tilt", "about"})
        if chosen not in dict(options):
            options.append((chosen, words.plane_words(value, place.document.steps)))
            settings[chosen] = {**held, **rest}
        picks = [held] if value.face else []
        entries = (
            Entry("pick", "pick a flat face …", pick={"kind": "any", "picks": picks, "single": True, "rest": rest}),
            Entry("tilt", "tilt it …", set={**settings[chosen], "tilt": "15 deg"}),
        )
        yield Token(
            "plane", "", path, chosen, tuple(options), picks=picks, settings=settings, entries=entries, template="select"
        )
        yield Token("words", ", raised ")
        yield number(f"{path}.offset", value.offset, "length")
        if value.tilt != "0":
            yield Token("words", ", tilted ")
            yield number(f"{path}.tilt", value.tilt, "angle")
            yield Token("words", " about ")
            about = (("x", "its x"), ("y", "its y"))
            yield Token("choice", path=f"{path}.about", value=value.about, options=about, template="select")


class Axis(Control):
    """An axis: the document's, a datum, a line of a sketch; others are picked in the view."""

    kinds = ("axis",)

    def tokens(self, place: Place) -> Iterator[Token]:
        value: AxisPick = place.value
        options = [(_json(AxisPick(axis=name)), f"the {name} axis") for name in ("x", "y", "z")]
        for other in place.above:
            if other.type == "axis":
                options.append((_json(AxisPick(datum=other.id)), other.label))
            if isinstance(other, Drawing):
                options += [(_json(AxisPick(sketch=other.id, line=n)), f"{n} of {other.label}") for n in ("x", "y")]
                guides = [n for n, e in other.entities.items() if e.type == "line" and e.construction]
                options += [(_json(AxisPick(sketch=other.id, line=n)), f"{named(other, n)} of {other.label}") for n in guides]
        held = _json(value)
        if held not in dict(options):
            options.append((held, words.axis_words(value, place.document.steps)))
        picks = [json.loads(held)] if value.on_model else []
        settings = {option: json.loads(option) for option, _ in options}
        entries = (Entry("pick", "pick an edge or a face …", pick={"kind": "axis", "picks": picks, "single": True}),)
        yield Token(
            "axis",
            path=place.path,
            value=held,
            options=tuple(options),
            picks=picks,
            settings=settings,
            entries=entries,
            template="select",
        )


class Points(Control):
    """Picked points as a chip; of a single one on an edge also how far along it."""

    kinds = ("spots",)

    def tokens(self, place: Place) -> Iterator[Token]:
        value: tuple[Spot, ...] | Spot | None = place.value
        single = not isinstance(value, tuple)
        held = value if isinstance(value, tuple) else (value,) if value is not None else ()
        extras: list[tuple[dict[str, Any], str]] = [({"origin": True}, "origin")]
        extras += [({"datum": s.id}, s.label) for s in place.above if s.type == "point"]
        picks = [pick.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for pick in held]
        options = tuple((json.dumps(pick), label) for pick, label in extras)
        said = words.spots_words(held, place.document.steps)
        yield Token("spots", said, place.path, "single" if single else "several", options, picks=picks)
        if isinstance(value, Spot) and value.edge is not None and value.at == "along":
            yield Token("words", ", ")
            yield number(f"{place.path}.share", value.share, "percent")
            yield Token("words", " along it")


def _json(pick: AxisPick) -> str:
    return pick.model_dump_json(exclude_none=True, exclude_defaults=True)
