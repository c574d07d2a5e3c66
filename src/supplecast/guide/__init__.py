"""The design guide: what good molded parts look like, as rules with a drawing, a source, and what watches each of them."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources

from pydantic import BaseModel, ConfigDict, Field


class Rule(BaseModel):
    """A rule: what to do and why, where it is from, and two sections drawn as SVG paths in a box of 120 × 64, `bad` and `good`.

    `watched` are pages of the handbook that it is watched or worked by; `lesson` ends with a part in which it is seen, at its
    last step of the type `at`.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    id: str = Field(pattern=r"^[a-z-]{3,40}$")
    title: str
    rule: str
    why: str
    source: str
    bad: str
    good: str
    watched: tuple[str, ...] = Field(min_length=1)
    lesson: str
    at: str


@cache
def rules() -> dict[str, Rule]:
    """Every rule by its id, in the order in which a part is made."""
    read = tomllib.loads((resources.files(__name__) / "rules.toml").read_text("utf-8"))
    return {rule.id: rule for rule in (Rule.model_validate(row) for row in read["rule"])}


__all__ = ["Rule", "rules"]
