"""Grades of one's own."""

from __future__ import annotations

from supplecast.errors import DocumentError
from supplecast.web import context
from supplecast.web.answers import Named
from supplecast.web.requests import GradeRequest
from supplecast.web.routing import api


@api.post("/resins")
def keep_resin(asked: GradeRequest) -> Named:
    """Keep a grade of one's own, new or in the place of the one `was`."""
    library, grade = context.library(), asked.grade
    names = {kept.name for kept in library.grades()}
    if grade.name != asked.was and grade.name in names:
        raise DocumentError(f"There is a grade “{grade.name}” already.", "Give this one another name.")
    library.keep_grade(grade)
    if asked.was in names - {grade.name}:
        library.drop_grade(asked.was)
    return Named(grade.name)


@api.delete("/resins/<name>")
def drop_resin(name: str) -> Named:
    """Forget a grade of one's own; documents that use it keep its figures."""
    context.library().drop_grade(name)
    return Named(name)
