"""The handbook's pages: all of it by chapter with a search, one topic, and all of it in one piece to print."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

from flask import Blueprint, abort, render_template, request, send_file
from werkzeug.wrappers import Response

from supplecast import handbook
from supplecast.web import habits
from supplecast.web.spoken import Voice, said

book = Blueprint("handbook", __name__, url_prefix="/handbook")


@book.get("")
def contents() -> str:
    """All chapters; `seek` is what is looked for at once."""
    return _page("handbook.html", topic=None, seek=request.args.get("seek", ""))


@book.get("/all")
def whole() -> str:
    return _page("handbook_whole.html")


@book.get("/handbook.pdf")
def pdf() -> Response:
    headers = {"Content-Disposition": 'inline; filename="supple-cast-handbook.pdf"'}
    return Response(_pdf(habits.voice()), mimetype="application/pdf", headers=headers)


@cache
def _pdf(voice: Voice) -> bytes:
    from supplecast.exchange.handbook_pdf import write_handbook  # the PDF library would add 0.2 s to every start of the web

    return write_handbook(lambda words: said(words, voice))


@book.get("/<path:topic_id>")
def topic(topic_id: str) -> str:
    found = handbook.topics().get(topic_id)
    if found is None:
        abort(404)
    own = _chapters()[found.chapter]
    at = own.index(found)
    beside = (own[at - 1] if at else None, own[at + 1] if at + 1 < len(own) else None)
    return _page("handbook.html", topic=found, beside=beside, seek="")


@book.get("/pictures/<name>.png")
def picture(name: str) -> Response:
    """A picture of a step before or after, such as `shell-after`, from a build of the demo."""
    content = handbook.pictures.picture(name)
    if content is None:
        abort(404)
    return send_file(content, mimetype="image/png", max_age=3600)


def _page(template: str, **more: object) -> str:
    return render_template(template, chapters=_chapters(), spoken=_spoken, pictures_of=handbook.pictures.of, **more)


def _chapters() -> dict[str, list[handbook.Topic]]:
    found: dict[str, list[handbook.Topic]] = {chapter: [] for chapter in handbook.CHAPTERS}
    for one in handbook.topics().values():
        found[one.chapter].append(one)
    return found


def _spoken(words: str) -> Iterator[tuple[str, bool]]:
    """Words in the reader's unit, cut at backquotes: each piece, and whether it is the name of a field."""
    for place, piece in enumerate(said(words, habits.voice()).split("`")):
        if piece:
            yield piece, place % 2 == 1
