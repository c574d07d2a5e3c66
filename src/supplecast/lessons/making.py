"""The documents of a lesson: what it begins with, and what it ends with."""

from __future__ import annotations

from collections.abc import Sequence
from importlib import resources
from typing import Any

from supplecast.document.beginnings import copied
from supplecast.document.edits import apply, read_edit
from supplecast.document.fields import LinkPick
from supplecast.document.model import Document, parse_document
from supplecast.lessons.lesson import Lesson
from supplecast.lessons.progress import meant


def begun(lesson: Lesson, name: str, parts: Sequence[LinkPick] = ()) -> Document:
    """What a lesson begins with, beside some parts."""
    return _worked(_empty(lesson).model_copy(update={"lesson": name}), lesson.begin, parts)


def ended(lesson: Lesson, parts: Sequence[LinkPick] = ()) -> Document:
    """What a lesson ends with, worked on in it no more."""
    return _worked(_empty(lesson), (*lesson.begin, *(task.edit for task in lesson.tasks)), parts)


def _empty(lesson: Lesson) -> Document:
    empty = Document(kind=lesson.kind, name=lesson.title, resin=lesson.resin)
    if not lesson.like:
        return empty
    shipped = resources.files("supplecast.demo") / f"{lesson.like}.supple.json"
    return copied(empty, parse_document(shipped.read_bytes()))


def _worked(document: Document, edits: Sequence[dict[str, Any]], parts: Sequence[LinkPick]) -> Document:
    for edit in edits:
        document, _ = apply(document, read_edit(meant(document, edit)), parts)
    return document
