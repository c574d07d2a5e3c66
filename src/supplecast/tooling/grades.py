"""Grades of one's own: a resin's figures as its data sheet gives them, where the table only has a range from memory."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, field_validator, model_validator

from supplecast.art.look import Kind, Look
from supplecast.text import Cleaned
from supplecast.tooling.materials import MATERIALS
from supplecast.tooling.resins import RESINS, Injection, Resin

_HEAT = ("melt", "mold", "eject", "diffusivity", "pressure", "flow")
_PLAIN = ("wall", "draft", "rib", "price")

Name = Annotated[str, Cleaned, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
Positive = Annotated[float, Field(gt=0, lt=1e5)]
Degrees = Annotated[float, Field(ge=-100, le=2000)]


class GradeLook(BaseModel):
    """What parts of a grade look like, unless they are given a finish; gloss and tint as shares."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    kind: Kind = "solid"
    colour: Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")] = "#D9C7A3"
    gloss: Annotated[float, Field(ge=0, le=1)] = 0.35
    tint: Annotated[float, Field(ge=0, le=1)] = 0.2

    @property
    def seen(self) -> Look:
        return Look(self.kind, self.colour.upper(), self.gloss, self.tint)


class Grade(BaseModel):
    """A grade and the resin of the table it is `like`: marks, screws and snaps go by that, and so does every figure left out.
    Of what is like no resin (blank), and not molded, the density is all that counts. Shrinkage in %, density in g/cm³,
    wall in mm, draft in degrees, price per kg; temperatures in °C, diffusivity in mm²/s, pressure in MPa, flow in walls.
    Injection's figures are all there or none. `source` says where they are from, `look` what its parts look like.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    name: Name
    like: str = ""
    source: Annotated[str, Cleaned, StringConstraints(max_length=200, strip_whitespace=True)] = ""
    shrinkage: tuple[float, float] | None = None
    density: Positive
    wall: tuple[Positive, Positive, Positive] | None = None
    draft: Annotated[float, Field(ge=0, le=20)] | None = None
    rib: Annotated[float, Field(gt=0, le=1.5)] | None = None
    price: Annotated[float, Field(ge=0, lt=1e6)] | None = None
    melt: tuple[Degrees, Degrees] | None = None
    mold: tuple[Degrees, Degrees] | None = None
    eject: Degrees | None = None
    diffusivity: Positive | None = None
    pressure: tuple[Positive, Positive] | None = None
    flow: Positive | None = None
    look: GradeLook | None = None

    @field_validator("like")
    @classmethod
    def _known(cls, like: str) -> str:
        if like and like not in RESINS:
            raise ValueError("it must be like a resin of the table, or like none")
        return like

    @field_validator("shrinkage")
    @classmethod
    def _sensible(cls, shrinkage: tuple[float, float] | None) -> tuple[float, float] | None:
        if shrinkage is not None and (not all(map(math.isfinite, shrinkage)) or not 0 <= shrinkage[0] <= shrinkage[1] < 20):
            raise ValueError("it must run from a smaller to a larger percentage, both from 0 to under 20")
        return shrinkage

    @model_validator(mode="after")
    def _ordered(self) -> Grade:
        if self.name in RESINS or self.name in MATERIALS:
            word = "resin" if self.name in RESINS else "material"
            raise ValueError(f"“{self.name}” is the name of a {word} of the table: give the grade another")
        for what in ("wall", "melt", "mold", "pressure"):
            span = getattr(self, what)
            if span is not None and list(span) != sorted(span):
                raise ValueError(f"the {what} must run from its least to its most")
        held = [getattr(self, what) is not None for what in _HEAT]
        if any(held) and not all(held):
            raise ValueError("of what injection needs, all figures must be given, or none")
        if self.melt is not None and self.mold is not None and self.eject is not None:
            middle = sum(self.mold) / 2
            if not middle < self.eject < sum(self.melt) / 2:
                raise ValueError("the part is ejected between the temperatures of the mold and the melt")
        return self

    @classmethod
    def of(cls, resin: Resin, name: str) -> Grade:
        """A grade that begins with the figures of a resin of the table."""
        injection = resin.injection.__dict__ if resin.injection else {}
        low, high = (round(100 * share, 6) for share in resin.shrinkage)
        plain = {field: getattr(resin, field) for field in ("density", "wall", "draft", "rib", "price")}
        return cls(name=name, like=resin.name, shrinkage=(low, high), **plain, **injection)

    @property
    def resin(self) -> Resin | None:
        """All its figures, those left out as the resin has them that it is like; None for what is not molded."""
        table = RESINS.get(self.like)
        if table is None:
            return None
        shrinkage = table.shrinkage if self.shrinkage is None else (self.shrinkage[0] / 100, self.shrinkage[1] / 100)
        injection = table.injection
        if self.melt and self.mold and self.eject is not None and self.diffusivity and self.pressure and self.flow:
            injection = Injection(self.melt, self.mold, self.eject, self.diffusivity, self.pressure, self.flow)
        own = {name: value for name in _PLAIN if (value := getattr(self, name)) is not None}
        return replace(table, name=self.name, shrinkage=shrinkage, density=self.density, injection=injection, **own)
