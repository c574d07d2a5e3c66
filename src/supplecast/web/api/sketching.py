"""The drawing sheet's own part of the API: what a sketch looks like, acts on it, guesses under the pointer, drags.

All of it is worked out here and now, without a worker: a sketch needs no solids. What was solved last stays in the hand, so
that the pointer is answered within milliseconds.
"""

from __future__ import annotations

import contextlib
import threading
from collections import OrderedDict, defaultdict
from dataclasses import dataclass, field, replace
from typing import Any

from flask import Response, current_app, request
from pydantic import TypeAdapter, ValidationError

from supplecast.budget import TooMuchWork
from supplecast.document.edits.drawing import SketchActs, sketched
from supplecast.document.model import Document
from supplecast.errors import DocumentError, SketchError, StoreError, SuppleError
from supplecast.exchange.handoff import file_name
from supplecast.exchange.outlines import write_dxf, write_svg
from supplecast.exchange.photos import media_type, read_photo
from supplecast.sketch import regions
from supplecast.sketch.acts import read_act
from supplecast.sketch.acts.fix import Retype
from supplecast.sketch.ghosts import Ghosts, seen
from supplecast.sketch.inference import told
from supplecast.sketch.live import Live
from supplecast.sketch.model import Drawing
from supplecast.sketch.picks import Pick
from supplecast.sketch.scene import Scene, moved, scene, shape
from supplecast.sketch.sizing import size_of
from supplecast.sketch.tools import tools
from supplecast.sketch.trial import laid_trial, taken_away
from supplecast.sketch.work import Done, copied, perform
from supplecast.store.library import Revision
from supplecast.web import context, habits
from supplecast.web.answers import (
    ActsAnswer,
    DragAnswer,
    DrawingTool,
    GuessAnswer,
    KeptPhoto,
    PhotoAnswer,
    SketchAnswer,
    Started,
    TrimAnswer,
)
from supplecast.web.requests import (
    ActsRequest,
    DragRequest,
    GuessRequest,
    SketchFileQuery,
    TakeRequest,
    TraceRequest,
    TrimRequest,
)
from supplecast.web.routing import api
from supplecast.web.spoken import Voice, said
from supplecast.wire import options
from supplecast.wire.results import OutlineCurves, TakenCurves
from supplecast.wire.verbs import READ_OUTLINE, TAKE, TRACE_PHOTO

_KEPT = 24
_WRITERS = {"dxf": (write_dxf, "image/vnd.dxf"), "svg": (write_svg, "image/svg+xml")}
_picks: TypeAdapter[list[Pick]] = TypeAdapter(list[Pick])


@dataclass
class _InHand:
    """A sketch in the hand: the document and revision it was solved from, and what is being dragged."""

    document: Document
    revision: int
    live: Live
    lock: threading.Lock = field(default_factory=threading.Lock)
    grab: Any = None
    shown: tuple[Voice, Scene] | None = None
    ghosts: tuple[list[str], Ghosts] | None = None

    def seen(self, jobs: list[str]) -> Ghosts | None:
        """The sketch with the model's edges over it, as jobs have laid them into its plane; None where there are none."""
        if not jobs:
            return None
        if self.ghosts is None or self.ghosts[0] != jobs:
            rows: list[Any] = []
            for name in jobs:
                with contextlib.suppress(StoreError):
                    result = context.engine().job(name).result
                    rows += result.curves if isinstance(result, TakenCurves) else []
            self.ghosts = (jobs, seen(self.live.drawing, rows))
        return self.ghosts[1]


class _Hands:
    """The sketches used last, by document and step; and those too much to work out, so that it is not tried again."""

    def __init__(self) -> None:
        self._held: OrderedDict[tuple[str, str], _InHand] = OrderedDict()
        self._refused: OrderedDict[tuple[str, int, str], TooMuchWork] = OrderedDict()
        self._lock = threading.Lock()
        self._making: defaultdict[tuple[str, str], threading.Lock] = defaultdict(threading.Lock)

    def known(self, document_id: str, revision: int, step: str) -> _InHand | None:
        with self._lock:
            session = self._held.get((document_id, step))
            if session is None or session.revision != revision:
                return None
            self._held.move_to_end((document_id, step))
            return session

    def get(self, document: Document, revision: int, step: str) -> _InHand:
        with self._making[(document.id, step)]:  # many who ask at once wait for the one who works it out
            session = self.known(document.id, revision, step)
            if session is not None:
                return session
            refused = self._refused.get((document.id, revision, step))
            if refused is not None:
                raise TooMuchWork(refused.message, refused.hint)
            try:
                return self.put(document, revision, step, _live(document, step))
            except TooMuchWork as fault:
                with self._lock:
                    self._refused[(document.id, revision, step)] = fault
                    while len(self._refused) > _KEPT:
                        self._refused.popitem(last=False)
                raise

    def put(self, document: Document, revision: int, step: str, live: Live) -> _InHand:
        sheet = _InHand(document, revision, live)
        with self._lock:
            self._held[(document.id, step)] = sheet
            while len(self._held) > _KEPT:
                self._held.popitem(last=False)
        return sheet


def _hands() -> _Hands:
    """Those of the running application."""
    held = current_app.extensions.setdefault("hands", _Hands())
    assert isinstance(held, _Hands)
    return held


def _drawing(document: Document, step: str) -> Drawing:
    drawing = document.step(step)
    if not isinstance(drawing, Drawing):
        raise DocumentError(f"“{drawing.label}” is not a sketch.", "Open a sketch.")
    return drawing


def _live(document: Document, step: str) -> Live:
    drawing = _drawing(document, step)
    return Live(copied(drawing), size_of(document.scope))


def _shown(hand: _InHand) -> Scene:
    """A sketch as it looks, its sizes with the reader's decimal sign."""
    voice = habits.voice(hand.document.unit)
    with hand.lock:
        if hand.shown is None or hand.shown[0] != voice:
            drawn = scene(hand.live, hand.document.scope)
            hand.shown = (voice, replace(drawn, sizes=[replace(size, text=voice.typed(size.text)) for size in drawn.sizes]))
        return hand.shown[1]


def _opened(document_id: str, step: str) -> tuple[Document, int, _InHand]:
    """The sketch as it stands, without reading the document anew while nothing has changed: the pointer does not wait."""
    number = context.library().head_number(document_id)
    known = _hands().known(document_id, number, step)
    if known is not None:
        return known.document, number, known
    head = context.library().head(document_id)
    return head.document, head.number, _hands().get(head.document, head.number, step)


@api.get("/documents/<document_id>/sketches/<step>")
def sketch(document_id: str, step: str) -> SketchAnswer:
    """A sketch as it looks: its curves, sizes, marks, areas and freedoms."""
    head = context.library().head(document_id)
    document = head.document
    shown = _shown(_hands().get(document, head.number, step))
    kit = [DrawingTool(t.name, t.family, t.clicks, t.sizes, t.asks, t.aimed, t.more) for t in tools().values()]
    return SketchAnswer(head.number, head.undo, head.redo, document.step(step).label, document.unit, shown, kit)


@api.post("/documents/<document_id>/sketches/<step>/acts")
def sketch_acts(document_id: str, step: str, asked: ActsRequest) -> ActsAnswer:
    """Do acts on a sketch and keep them as a revision; with `try`, only show what they would give."""
    head = context.library().head(document_id)
    document, acts = head.document, asked.acts
    if asked.attempt:
        try:
            done = perform(_drawing(document, step), [read_act(act) for act in acts], document.scope)
        except SketchError as fault:  # nothing was asked for yet: a refusal is an answer like any other
            words = said(f"{fault.message} {fault.hint}".strip(), habits.voice(document.unit))
            return ActsAnswer(head.number, head.undo, head.redo, words, (), None)
        tried = Live(done.drawing, size_of(document.scope), done.solution)
        return _done(done, _InHand(document, head.number, tried), head)
    if asked.base is None:
        raise DocumentError("The request does not say which revision it is based on.", "Reload the page.")
    live = _retyped(_hands().get(document, head.number, step), acts)
    known = Done(live.drawing, live.solution, "", ()) if live is not None else None
    changed, words, done = sketched(document, SketchActs(op="sketch", step=step, acts=acts), known)
    revision = context.library().commit(document_id, asked.base, changed, words)
    live = live or Live(done.drawing, size_of(changed.scope), done.solution)
    return _done(done, _hands().put(changed, revision.number, step, live), revision)


def _retyped(sheet: _InHand, acts: list[Any]) -> Live | None:
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


def _done(done: Done, hand: _InHand, at: Revision) -> ActsAnswer:
    words = said(done.words, habits.voice(hand.document.unit))
    return ActsAnswer(at.number, at.undo, at.redo, words, done.made, _shown(hand))


@api.post("/documents/<document_id>/sketches/<step>/guess")
def sketch_guess(document_id: str, step: str, asked: GuessRequest) -> GuessAnswer:
    """What the pointer means while a tool draws, what would be drawn, and how its sizes lie."""
    document, _, hand = _opened(document_id, step)
    tool = tools().get(asked.tool or "")
    ghosts: Ghosts | None = None
    picks = [pick.placed(document.scope) for pick in _read_picks(asked.picks)]
    if asked.typed:
        try:
            guess, pick = None, Pick(x=0, y=0, typed=asked.typed).placed(document.scope)
        except SketchError as fault:  # while one types, a refusal is an answer like any other
            refusal = said(f"{fault.message} {fault.hint}", habits.voice(document.unit))
            return GuessAnswer({}, "", (), (), {}, refusal)
    elif asked.free:
        guess, pick = None, Pick(x=asked.cursor[0], y=asked.cursor[1])
    else:
        lined = tool is not None and tool.family in ("Line", "Spline", "Rectangle", "Slot")
        begun = lined or (tool is not None and tool.family == "Arc")
        start = picks[-1] if picks and begun else None
        ghosts = hand.seen(asked.ghosts)
        sights = ghosts.sights if ghosts else hand.live.sights
        guess = sights.guess(asked.cursor, asked.unit, start, woken=asked.woken[:40], lined=lined)
        pick = guess.pick
    words, guides = (guess.words, guess.guides) if guess else ("", ())
    takes = ghosts.takes(hand.live.drawing, pick.snaps) if ghosts and guess else ()
    there = ghosts.drawing if takes and ghosts else hand.live.drawing
    pick_json = pick.model_dump(mode="json")
    if tool is None:
        return GuessAnswer(pick_json, words, guides, (), {}, "", takes)
    sizes = {name: text for name, text in asked.sizes.items() if isinstance(text, str)}
    trial = laid_trial(there, document.scope, tool, [*picks, pick], sizes)
    voice = habits.voice(document.unit)
    measures = {name: voice.typed(measure) for name, measure in trial.measures.items()}
    words = f"{told(trial.snaps)}{' of the model' if takes and trial.snaps else ''}"
    return GuessAnswer(pick_json, words, guides, trial.shapes, measures, said(trial.refusal, voice), takes)


@api.post("/documents/<document_id>/sketches/<step>/take")
def sketch_take(document_id: str, step: str, asked: TakeRequest) -> Started[TakenCurves]:
    """Start laying what was picked in the view into the sketch's plane."""
    head = context.library().head(document_id)
    _drawing(head.document, step)
    task = context.task(head.document, upto=step)
    wanted = options.Take(step, asked.picked.thing, asked.how)
    return Started(context.engine().submit(TAKE, document_id, task, wanted).id)


@api.post("/documents/<document_id>/sketches/<step>/outlines")
def sketch_outlines(document_id: str, step: str) -> Started[OutlineCurves]:
    """Start reading an uploaded DXF or SVG file; the job's result holds its curves."""
    _drawing(context.library().head(document_id).document, step)
    _, content = _uploaded()
    if not content:
        raise DocumentError("No file came along.", "Choose a DXF or SVG file.")
    path = context.engine().brought(content)
    task, wanted = context.task(Document()), options.ReadFile(str(path))
    return Started(context.engine().submit(READ_OUTLINE, path.name, task, wanted, brought=path).id)


def _uploaded() -> tuple[str, bytes]:
    """The name and the content of the file that came along; blank if there is none."""
    file = request.files.get("file")
    return (file.filename or "", file.read()) if file is not None else ("", b"")


@api.post("/documents/<document_id>/sketches/<step>/photos")
def sketch_photos(document_id: str, step: str) -> PhotoAnswer:
    """Keep an uploaded PNG or JPEG, to be put under the sketch by the act “add photo”."""
    _drawing(context.library().head(document_id).document, step)
    name, content = _uploaded()
    _, width, height = read_photo(content)
    asset = context.library().add_asset(name or "photo", content)
    return PhotoAnswer(KeptPhoto(asset, (name or "photo")[:120], (width, height)))


@api.post("/documents/<document_id>/sketches/<step>/trace")
def sketch_trace(document_id: str, step: str, asked: TraceRequest) -> Started[OutlineCurves]:
    """Start looking for the outline in a photo under the sketch; the job's result holds its curves."""
    photo = _drawing(context.library().head(document_id).document, step).photos.get(asked.photo)
    path = context.library().assets / (photo.asset if photo else "none")
    if photo is None or not path.is_file():
        raise StoreError("That photo is no longer under the sketch.", "Bring it in again.")
    wanted = options.TracePhoto(str(path), photo.model_dump(mode="json"))
    return Started(context.engine().submit(TRACE_PHOTO, f"{photo.asset} {step}", context.task(Document()), wanted).id)


@api.get("/documents/<document_id>/sketches/<step>/photos/<asset>")
def sketch_photo(document_id: str, step: str, asset: str) -> Response:
    """A photo that lies under the sketch."""
    drawing = _drawing(context.library().head(document_id).document, step)
    if all(photo.asset != asset for photo in drawing.photos.values()):
        raise StoreError("That photo is not under this sketch.", "Reload the page.")
    path = context.library().assets / asset
    if not path.is_file():
        raise StoreError("The photo's file is gone.", "Bring it in again.")
    content = path.read_bytes()
    return Response(content, mimetype=media_type(content), headers={"Cache-Control": "private, max-age=31536000, immutable"})


@api.get("/documents/<document_id>/sketches/<step>/file")
def sketch_file(document_id: str, step: str, query: SketchFileQuery) -> Response:
    """The sketch as a DXF or SVG file, at true size."""
    document, _, hand = _opened(document_id, step)
    live = hand.live
    curves, construction = (regions.curves(live.drawing, live.solution, construction=c) for c in (False, True))
    if not curves and not construction:
        raise DocumentError("There is nothing in the sketch to write.", "Draw something first.")
    write, kind = _WRITERS[query.format]
    name = file_name(document.name, document.step(step).label, extension=query.format)
    return Response(
        write(curves, construction), mimetype=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@api.post("/documents/<document_id>/sketches/<step>/trims")
def sketch_trims(document_id: str, step: str, asked: TrimRequest) -> TrimAnswer:
    """The piece of a curve that trimming at a place would take away."""
    _, _, hand = _opened(document_id, step)
    return TrimAnswer(shape(taken_away(hand.live.drawing, asked.entity, asked.at)))


@api.post("/documents/<document_id>/sketches/<step>/drag")
def sketch_drag(document_id: str, step: str, asked: DragRequest) -> DragAnswer:
    """Pull what was grabbed at `from` to `to`; what follows is shown, and kept only by the act “dropped”."""
    document, number, hand = _opened(document_id, step)
    name = asked.name
    with hand.lock:
        if asked.begin or hand.grab is None or hand.grab[0] != name:
            live = Live(hand.live.drawing, size_of(document.scope), hand.live.solution)
            if not live.can_move(name):
                raise SketchError("That is fixed: nothing of it can move.", "Change a size, or take a constraint out.")
            hand.grab = (name, live.grabbed(name, asked.grabbed), live)
        _, offsets, live = hand.grab
        points, radii = live.dragged(offsets, asked.to)
    return DragAnswer(moved(live, points, radii, document.scope), radii, number)


def _read_picks(data: Any) -> list[Pick]:
    try:
        return _picks.validate_python(data)
    except ValidationError as fault:
        raise DocumentError("The request's clicks cannot be read.", "Reload the page.") from fault
