"""Pictures of the handbook: what was there before a step and what it made, from real builds of the demo, shipped with it."""

from __future__ import annotations

import zipfile
from functools import cache
from io import BytesIO
from pathlib import Path

SHIPPED = Path(__file__).with_name("pictures.zip")
"""Written by scripts/handbook_pictures.py."""


@cache
def names() -> frozenset[str]:
    """Of the pictures that there are, without their ending."""
    if not SHIPPED.exists():
        return frozenset()
    with zipfile.ZipFile(SHIPPED) as file:
        return frozenset(name.removesuffix(".png") for name in file.namelist())


def picture(name: str) -> BytesIO | None:
    """A PNG by its name, if there is one."""
    if name not in names():
        return None
    with zipfile.ZipFile(SHIPPED) as file:
        return BytesIO(file.read(f"{name}.png"))


def of(step: str) -> tuple[str, ...]:
    """The names of the pictures of a type of step: before, where there was something, and after; none if there are none."""
    pair = (f"{step.replace(' ', '-')}-before", f"{step.replace(' ', '-')}-after")
    return tuple(name for name in pair if name in names())
