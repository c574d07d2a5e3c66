"""What is known of the resin, and what steps for hand casting say of the components to weigh out."""

from __future__ import annotations

from typing import Annotated

from pydantic import StringConstraints

from supplecast.document.builder import Builder
from supplecast.document.fields import FieldSpec
from supplecast.errors import SuppleError
from supplecast.tooling.mixing import amounts
from supplecast.tooling.resins import Resin

Ratio = Annotated[str, StringConstraints(max_length=24, strip_whitespace=True), FieldSpec("words")]


def weighed(at: Builder, ratio: str, volume: float, name: str, density: float, digits: int) -> float:
    """The mass in grams of `volume` mm³ at `density` g/cm³, with the step's `spare`, and a note of its components. Refuses what
    is no ratio.
    """
    try:
        shares = amounts(volume, density, ratio, at.ratio("spare"))
    except SuppleError as fault:
        at.fail("ratio", fault.message, fault.hint)
    parts = f"{shares.a:.{digits}f} g and {shares.b:.{digits}f} g" if shares.b else f"{shares.a:.{digits}f} g"
    at.note(f"{volume / 1000:.{digits + 1}f} cm³ of {name} at {density:g} g/cm³, with what is to spare: {parts}.")
    return shares.whole


def known(at: Builder) -> Resin | None:
    """The figures of the document's resin, if there are any."""
    try:
        return at.material
    except SuppleError:
        return None
