"""Lessons: short ways through a real job, told task by task beside the real screens.

Each is a file in this folder: what to do, why, where to look, and the conditions by which the document itself shows that a task
is done. Nothing is told by clicks, so that one may go on one's own way.
"""

from __future__ import annotations

import tomllib
from functools import cache
from importlib import resources

from supplecast.lessons.lesson import Lesson
from supplecast.lessons.making import begun, ended
from supplecast.lessons.progress import done, is_known, lights, meant

ORDER = ("knob", "mending", "firsttry", "door", "backshell", "bracket", "casting", "production")
"""The lessons, in the order in which they are offered."""


@cache
def lessons() -> dict[str, Lesson]:
    """Every lesson by its name, in order."""
    folder = resources.files(__name__)
    return {name: Lesson.model_validate(tomllib.loads((folder / f"{name}.toml").read_text("utf-8"))) for name in ORDER}


__all__ = ["ORDER", "Lesson", "begun", "done", "ended", "is_known", "lessons", "lights", "meant"]
