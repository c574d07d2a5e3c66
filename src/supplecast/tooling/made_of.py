"""What a part is made of: a resin of the table, a grade of one's own, or something that is not molded."""

from __future__ import annotations

from dataclasses import dataclass

from supplecast.art.look import Look
from supplecast.tooling.grades import Grade
from supplecast.tooling.materials import MATERIALS
from supplecast.tooling.resins import RESINS, SOURCE, Resin


@dataclass(frozen=True)
class MadeOf:
    """A material by its name, with the figures of the grade of one's own that it is, if it is one."""

    name: str
    grade: Grade | None = None

    @property
    def figures(self) -> Resin | None:
        """Of the resin that it is; None if that is not known, or it is not molded."""
        return self.grade.resin if self.grade else RESINS.get(self.name)

    @property
    def source(self) -> str:
        """Where its figures are from, in words."""
        return SOURCE if self.grade is None else self.grade.source or "a grade of your own, no source given"

    @property
    def family(self) -> str:
        """The resin of the table that it is, or is like."""
        return self.grade.like if self.grade else self.name

    @property
    def is_molded(self) -> bool:
        """Whether it is something that is molded, as far as is known."""
        return bool(self.grade.like) if self.grade else self.name not in MATERIALS

    @property
    def density(self) -> float | None:
        """g/cm³; None if it is not known."""
        if self.grade:
            return self.grade.density
        known = RESINS.get(self.name) or MATERIALS.get(self.name)
        return known.density if known else None

    @property
    def look(self) -> Look | None:
        """What it looks like, where that is known."""
        if self.grade:
            return self.grade.look.seen if self.grade.look else None
        plain = MATERIALS.get(self.name)
        return plain.look if plain else None
