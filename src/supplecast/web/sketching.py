"""The drawing sheet's own part of the API: what a sketch looks like, acts on it, guesses under the pointer, drags.

All of it is worked out here and now, without a worker: a sketch needs no solids. What was solved last stays in the hand, so
that the pointer is answered within milliseconds.
"""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from dataclasses import asdict, dataclass, field
from typing import Any

from flask import Response, jsonify, request
from pydantic import TypeAdapter, ValidationError

from supplecast.document.edits.drawing import SketchActs, sketched
from supplecast.document.model import Document
from supplecast.errors import DocumentError, SketchError, StoreError, SuppleError
from supplecast.exchange.handoff import file_name
from supplecast.exchange.outlines import write_dxf, write_svg
from supplecast.exchange.photos import read_photo
from supplecast.geometry import Point2
from supplecast.sketch import regions
from supplecast.sketch.acts import read_act
from supplecast.sketch.acts.fix import Retype
from supplecast.sketch.live import Live
from supplecast.sketch.model import Drawing
from supplecast.sketch.picks import Pick
from supplecast.sketch.scene import moved, scene, shape
from supplecast.sketch.sizing import size_of
from supplecast.sketch.tools import tools
from supplecast.sketch.trial import laid_trial, taken_away
from supplecast.sketch.work import Done, copied, perform
from supplecast.web import context
from supplecast.web.api import api as routes
from supplecast.web.api import body, needed, whole

__all__ = ["routes"]
_KEPT = 24
_WRITERS = {"dxf": (write_dxf, "image/vnd.dxf"), "svg": (write_svg, "image/svg+xml")}
_picks: TypeAdapter[list[Pick]] = TypeAdapter(list[Pick])


@dataclass
class _Sheet:
    """A sketch in the hand: the document and revision it was solved from, and what is being dragged."""

    document: Document
    revision: int
    live: Live
    lock: threading.Lock = field(default_factory=threading.Lock)
    grab: Any = None


class _Sheets:
    """The sketches used last, by document and step."""

    def __init__(self) -> None:
        self._held: OrderedDict[tuple[str, str], _Sheet] = OrderedDict()
        self._lock = threading.Lock()

    def known(self, document_id: str, revision: int, step: str) -> _Sheet | None:
        with self._lock:
            found = self._held.get((document_id, step))
            if found is None or found.revision != revision:
                return None
            self._held.move_to_end((document_id, step))
            return found

    def get(self, document: Document, revision: int, step: str) -> _Sheet:
        found = self.known(document.id, revision, step)
        return found or self.put(document, revision, step, _live(document, step))

    def put(self, document: Document, revision: int, step: str, live: Live) -> _Sheet:
        sheet = _Sheet(document, revision, live)
        with self._lock:
            self._held[(document.id, step)] = sheet
            while len(self._held) > _KEPT:
                self._held.popitem(last=False)
        return sheet


_sheets = _Sheets()


def _drawing(document: Document, step: str) -> Drawing:
    found = document.step(step)
    if not isinstance(found, Drawing):
        raise DocumentError(f"“{found.label}” is not a sketch.", "Open a sketch.")
    return found


def _live(document: Document, step: str) -> Live:
    drawing = _drawing(document, step)
    return Live(copied(drawing), size_of(document.scope))


def _opened(document_id: str, step: str) -> tuple[Document, int, _Sheet]:
    """The sketch as it stands, without reading the document anew while nothing has changed: the pointer does not wait."""
    number = context.library().head_number(document_id)
    known = _sheets.known(document_id, number, step)
    if known is not None:
        return known.document, number, known
    head = context.library().head(document_id)
    return head.document, head.number, _sheets.get(head.document, head.number, step)


@routes.get("/documents/<document_id>/sketches/<step>")
def sketch(document_id: str, step: str) -> Response:
    """A sketch as it looks: its curves, sizes, marks, areas and freedoms."""
    head = context.library().head(document_id)
    document = head.document
    sheet = _sheets.get(document, head.number, step)
    return jsonify(
        {
            "revision": head.number,
            "undo": head.undo,
            "redo": head.redo,
            "name": document.step(step).label,
            "unit": document.unit,
            "scene": scene(sheet.live, document.scope),
            "tools": [
                {"name": t.name, "family": t.family, "clicks": t.clicks, "sizes": t.sizes, "more": t.more}
                for t in tools().values()
            ],
        }
    )


@routes.post("/documents/<document_id>/sketches/<step>/acts")
def sketch_acts(document_id: str, step: str) -> Response:
    """Do acts on a sketch and keep them as a revision; with `try`, only show what they would give."""
    data = body()
    head = context.library().head(document_id)
    document = head.document
    acts = data.get("acts")
    if not isinstance(acts, list) or not 1 <= len(acts) <= 100:
        raise DocumentError("The request holds no acts.", "Reload the page.")
    if data.get("try"):
        try:
            done = perform(_drawing(document, step), [read_act(act) for act in acts], document.scope)
        except SketchError as fault:  # nothing was asked for yet: a refusal is an answer like any other
            refused: dict[str, Any] = {"words": f"{fault.message} {fault.hint}".strip(), "made": [], "scene": None}
            return jsonify({"revision": head.number, "undo": head.undo, "redo": head.redo, **refused})
        return _done(done, document, {"revision": head.number, "undo": head.undo, "redo": head.redo})
    live = _retyped(_sheets.get(document, head.number, step), acts)
    known = Done(live.drawing, live.solution, "", ()) if live is not None else None
    changed, words, done = sketched(document, SketchActs(op="sketch", step=step, acts=acts), known)
    revision = context.library().commit(document_id, needed(data, "base"), changed, words)
    live = live or Live(done.drawing, size_of(changed.scope), done.solution)
    _sheets.put(changed, revision.number, step, live)
    told = {"revision": revision.number, "undo": revision.undo, "redo": revision.redo}
    return _done(done, changed, told, live)


def _retyped(sheet: _Sheet, acts: list[Any]) -> Live | None:
    """Another value for one size, the quick way; None where the long way must be gone, which also says what is wrong."""
    act = read_act(acts[0])
    if len(acts) != 1 or not isinstance(act, Retype) or act.constraint not in sheet.live.drawing.constraints:
        return None
    if sheet.live.drawing.constraints[act.constraint].value is None:
        return None
    with sheet.lock:
        try:
            return sheet.live.retyped(act.constraint, act.value)
        except SuppleError:
            return None


def _done(done: Done, document: Document, told: dict[str, Any], live: Live | None = None) -> Response:
    live = live or Live(done.drawing, size_of(document.scope), done.solution)
    return jsonify({**told, "words": done.words, "made": done.made, "scene": scene(live, document.scope)})


@routes.post("/documents/<document_id>/sketches/<step>/guess")
def sketch_guess(document_id: str, step: str) -> Response:
    """What the pointer means while a tool draws, what would be drawn, and how its sizes lie."""
    data = body()
    document, _, sheet = _opened(document_id, step)
    cursor = _place(data, "cursor")
    tool = tools().get(str(data.get("tool") or ""))
    picks = _read_picks(data.get("picks", []))
    given = data.get("sizes")
    sizes = {str(k): v for k, v in given.items() if isinstance(v, str)} if isinstance(given, dict) else {}
    unit = data.get("unit")
    unit = float(unit) if isinstance(unit, (int, float)) and 0 < unit < 1e6 else 0.1
    woken = [str(name) for name in data.get("woken", [])][:40] if isinstance(data.get("woken"), list) else []
    sights = sheet.live.sights
    if data.get("free"):
        guess = None
        pick = Pick(x=cursor[0], y=cursor[1])
    else:
        start = picks[-1] if picks else None
        lined = tool is not None and tool.family in ("Line", "Spline", "Rectangle", "Slot")
        guess = sights.guess(cursor, unit, start if lined else None, woken=woken, lined=lined)
        pick = guess.pick
    told: dict[str, Any] = {
        "pick": pick.model_dump(mode="json"),
        "words": guess.words if guess else "",
        "guides": [asdict(guide) for guide in guess.guides] if guess else [],
        "preview": [],
        "measures": {},
        "refusal": "",
    }
    if tool is not None:
        shapes, measures, refusal = laid_trial(sheet.live.drawing, document.scope, tool, [*picks, pick], sizes)
        told |= {"preview": shapes, "measures": measures, "refusal": refusal}
    return jsonify(told)


@routes.post("/documents/<document_id>/sketches/<step>/take")
def sketch_take(document_id: str, step: str) -> Response:
    """Start laying what was picked in the view into the sketch's plane."""
    data = body()
    head = context.library().head(document_id)
    _drawing(head.document, step)
    picked = data.get("picked")
    if not isinstance(picked, dict) or not isinstance(picked.get("body"), str):
        raise DocumentError("Nothing was picked.", "Click an edge, a face or a body behind the sheet.")
    if data.get("how") not in ("edge", "section", "silhouette"):
        raise DocumentError("The request does not say what to take.", "Reload the page.")
    for name in ("face", "edge"):
        whole(picked, name)
    options = {"sketch": step, "picked": picked, "how": data["how"]}
    task = context.task(head.document, upto=step, options=options)
    return jsonify({"job": context.engine().submit("take", document_id, task).id})


@routes.post("/documents/<document_id>/sketches/<step>/outlines")
def sketch_outlines(document_id: str, step: str) -> Response:
    """Start reading an uploaded DXF or SVG file; the job's result holds its curves."""
    head = context.library().head(document_id)
    _drawing(head.document, step)
    file = request.files.get("file")
    content = file.read() if file is not None else b""
    if file is None or not content:
        raise DocumentError("No file came along.", "Choose a DXF or SVG file.")
    asset = context.library().add_asset(file.filename or "outline", content)
    task = context.task(Document(), options={"path": str(context.library().assets / asset)})
    return jsonify({"job": context.engine().submit("read_outline", asset, task, deadline=30).id})


@routes.post("/documents/<document_id>/sketches/<step>/photos")
def sketch_photos(document_id: str, step: str) -> Response:
    """Keep an uploaded PNG or JPEG, to be put under the sketch by the act “add photo”."""
    _drawing(context.library().head(document_id).document, step)
    file = request.files.get("file")
    content = file.read() if file is not None else b""
    _, width, height = read_photo(content)
    name = (file.filename if file is not None else "") or "photo"
    return jsonify(
        {"photo": {"asset": context.library().add_asset(name, content), "name": name[:120], "pixels": [width, height]}}
    )


@routes.get("/documents/<document_id>/sketches/<step>/photos/<asset>")
def sketch_photo(document_id: str, step: str, asset: str) -> Response:
    """A photo that lies under the sketch."""
    drawing = _drawing(context.library().head(document_id).document, step)
    if all(photo.asset != asset for photo in drawing.photos.values()):
        raise StoreError("That photo is not under this sketch.", "Reload the page.")
    path = context.library().assets / asset
    if not path.is_file():
        raise StoreError("The photo's file is gone.", "Bring it in again.")
    content = path.read_bytes()
    kind, _, _ = read_photo(content)
    return Response(content, mimetype=kind, headers={"Cache-Control": "private, max-age=31536000, immutable"})


@routes.get("/documents/<document_id>/sketches/<step>/file")
def sketch_file(document_id: str, step: str) -> Response:
    """The sketch as a DXF or SVG file, at true size."""
    document, _, sheet = _opened(document_id, step)
    format = request.args.get("format", "dxf")
    if format not in _WRITERS:
        raise DocumentError("There is no such format.", "Known: dxf, svg.")
    live = sheet.live
    curves, construction = (regions.curves(live.drawing, live.solution, construction=c) for c in (False, True))
    if not curves and not construction:
        raise DocumentError("There is nothing in the sketch to write.", "Draw something first.")
    write, kind = _WRITERS[format]
    name = file_name(document.name, document.step(step).label, extension=format)
    return Response(
        write(curves, construction), mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@routes.post("/documents/<document_id>/sketches/<step>/trims")
def sketch_trims(document_id: str, step: str) -> Response:
    """The piece of a curve that trimming at a place would take away."""
    data = body()
    _, _, sheet = _opened(document_id, step)
    piece = taken_away(sheet.live.drawing, str(data.get("entity")), _place(data, "at"))
    return jsonify({"piece": shape(piece)})


@routes.post("/documents/<document_id>/sketches/<step>/drag")
def sketch_drag(document_id: str, step: str) -> Response:
    """Pull what was grabbed at `from` to `to`; what follows is shown, and kept only by the act “dropped”."""
    data = body()
    document, number, sheet = _opened(document_id, step)
    name = str(data.get("name"))
    with sheet.lock:
        if data.get("begin") or sheet.grab is None or sheet.grab[0] != name:
            live = Live(sheet.live.drawing, size_of(document.scope), sheet.live.solution)
            if not live.can_move(name):
                raise SketchError("That is fixed: nothing of it can move.", "Change a size, or take a constraint out.")
            sheet.grab = (name, live.grabbed(name, _place(data, "from")), live)
        _, offsets, live = sheet.grab
        points, radii = live.dragged(offsets, _place(data, "to"))
    told = moved(live, points, radii, document.scope)
    return jsonify({"scene": told, "radii": radii, "revision": number})


def _place(data: dict[str, Any], name: str) -> Point2:
    given = data.get(name)
    if isinstance(given, (list, tuple)) and len(given) == 2 and all(isinstance(c, (int, float)) for c in given):
        x, y = float(given[0]), float(given[1])
        if math.isfinite(x) and math.isfinite(y) and max(abs(x), abs(y)) <= 1e6:
            return x, y
    raise DocumentError(f"The request's “{name}” is not a place.", "Reload the page.")


def _read_picks(data: Any) -> list[Pick]:
    try:
        return _picks.validate_python(data)
    except ValidationError as fault:
        raise DocumentError("The request's clicks cannot be read.", "Reload the page.") from fault
