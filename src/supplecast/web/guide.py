"""The design guide: its rules on one page, and a part in which one of them is seen."""

from __future__ import annotations

from flask import Blueprint, abort, redirect, render_template, url_for
from werkzeug.wrappers import Response

from supplecast import guide as rulebook
from supplecast import handbook
from supplecast.web import habits, lessons
from supplecast.web.spoken import said

guide = Blueprint("guide", __name__, url_prefix="/guide")


@guide.get("")
def contents() -> str:
    """All rules, each with what watches it."""
    return render_template(
        "guide.html",
        rules=rulebook.rules().values(),
        titles={name: topic.title for name, topic in handbook.topics().items()},
        spoken=lambda words: said(words, habits.voice()),
    )


@guide.post("/<rule_id>")
def seen(rule_id: str) -> Response:
    """A project with a lesson's part, opened where the rule is seen in it."""
    rule = rulebook.rules().get(rule_id)
    if rule is None:
        abort(404)
    card, document = lessons.made(rule.lesson, f"Guide: {rule.title}", whole=True)
    standing = next(step.id for step in reversed(document.steps) if step.type == rule.at)
    return redirect(url_for("pages.document", document_id=card.id, at=standing))
