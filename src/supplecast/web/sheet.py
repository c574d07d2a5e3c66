"""The build sheet as the templates print it: every step a sentence of words and fields."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from supplecast.document import words
from supplecast.document.copying import Copying
from supplecast.document.fields import AxisPick, LinkPick, PlanePick, Profile, Row, Spot, row_model
from supplecast.document.model import Document
from supplecast.document.shaping import Shaping
from supplecast.document.step import Step
from supplecast.naming.tag import maker
from supplecast.sketch.equations import named
from supplecast.sketch.model import Drawing
from supplecast.store.library import DocumentCard
from supplecast.wire.reports import BuiltStep

_BRACES = re.compile(r"\{([a-zA-Z0-9_.]+)\}")

_CHOICES = {
    "new": "as a new body",
    "add": "added",
    "cut": "cut",
    "by distance": "by",
    "+z": "up (+z)",
    "-z": "down (−z)",
    "+x": "along +x",
    "-x": "along −x",
    "+y": "along +y",
    "-y": "along −y",
}


@dataclass(frozen=True)
class Token:
    """A piece of a sentence: plain text, or a field with all that its control needs."""

    kind: str
    text: str = ""
    path: str = ""
    value: str = ""
    options: tuple[tuple[str, str], ...] = ()
    chosen: tuple[str, ...] = ()
    picks: Sequence[Mapping[str, Any]] = ()


@dataclass(frozen=True)
class Line:
    """One step as the sheet shows it."""

    number: int
    id: str
    type: str
    word: str
    label: str
    skip: bool
    tokens: tuple[Token, ...]
    more: tuple[Token, ...]
    details: tuple[tuple[str, tuple[Token, ...]], ...]
    figures: bool
    outcome: BuiltStep | None = None
    after_standing: bool = False

    @property
    def status(self) -> str:
        return "skipped" if self.skip else self.outcome.status if self.outcome else "waiting"


@dataclass(frozen=True)
class Around:
    """What the sheet knows of the world: bodies of the last build and the names of those used up, documents, outcomes."""

    bodies: tuple[tuple[str, str], ...] = ()
    called: Mapping[str, str] = field(default_factory=dict)
    documents: tuple[DocumentCard, ...] = ()
    outcomes: Mapping[str, BuiltStep] = field(default_factory=dict)


def lines(document: Document, around: Around, standing: str | None = None) -> list[Line]:
    found, after = [], False
    for number, step in enumerate(document.steps, 1):
        outcome = around.outcomes.get(step.id)
        found.append(
            Line(
                number=number,
                id=step.id,
                type=step.type,
                word=step.word,
                label=step.label,
                skip=step.skip,
                tokens=tuple(_tokens(step.sentence(), step, document, around)),
                more=tuple(_tokens(step.more(), step, document, around)),
                details=tuple((name, tuple(_tokens(text, step, document, around))) for name, text in step.details()),
                figures=step.type == "sketch",
                outcome=outcome,
                after_standing=after,
            )
        )
        after = after or step.id == standing
    return found


def spoken(line: Line) -> str:
    """A step's sentence in plain words, as one would read it aloud."""
    found = []
    for token in line.tokens:
        match token.kind:
            case "words":
                found.append(token.text)
            case "number" | "text":
                found.append(token.value)
            case "picks" | "spots" | "plane" | "link":
                found.append(token.text or dict(token.options).get(token.value, token.value))
            case "profile":
                found.append(" ".join([dict(token.options).get(token.value, ""), token.text]).strip())
            case "bodies" | "toggles":
                names = dict(token.options)
                found.append(" and ".join(names.get(one, one) for one in token.chosen) or "nothing")
            case "set":
                pass
            case _:
                found.append(dict(token.options).get(token.value, token.value))
    return re.sub(r"\s+([,;.])", r"\1", " ".join("".join(found).split()))


def _tokens(sentence: str, step: Step, document: Document, around: Around) -> Iterator[Token]:
    at = 0
    for match in _BRACES.finditer(sentence):
        if match.start() > at:
            yield Token("words", sentence[at : match.start()])
        yield from _field(match.group(1), step, document, around)
        at = match.end()
    if at < len(sentence):
        yield Token("words", sentence[at:])


def _field(path: str, step: Step, document: Document, around: Around) -> Iterator[Token]:
    if path.endswith(".add"):
        rows = path.removesuffix(".add")
        yield Token("set", row_model(type(step), rows).adding, rows, json.dumps([*_rows_held(step.held(rows)), {}]))
        return
    kind = step.spec_of(path).kind
    value: Any = step.held(path)
    match kind:
        case "length" | "angle" | "percent" | "count" | "factor" | "list" | "words":
            yield Token("number", path=path, value=step.typed(path), text=kind)
        case "text":
            yield Token("text", path=path, value=step.typed(path) or "", text=step.word)
        case "faces" | "edges" | "things":
            yield Token(
                "picks",
                words.picks_words(value, document.steps) if kind != "things" else words.things_words(value, document.steps),
                path,
                kind,
                picks=[pick.model_dump(mode="json", exclude_none=True) for pick in value],
            )
        case "profile" | "line":
            yield _profile(path, value, document, areas=kind == "profile")
        case "profiles" | "steps":
            yield _toggles(path, value, step, document, kind)
        case "sketch":
            sketches = [(s.id, s.label) for s in _above(step, document) if s.type == "sketch"]
            yield Token("sketch", path=path, value=value or "", options=(("", "no sketch"), *sketches))
        case "axis":
            yield from _axis(path, value, step, document)
        case "spots":
            yield from _spots(path, value, step, document)
        case "plane":
            yield from _plane(path, value, step, document)
        case "body":
            known = _bodies_before(step, document, around)
            unnamed = {"next": "whatever is met", "tool": "the only body", "surface": "the surface"}.get(path, f"the {path}")
            options = (("", unnamed), *known.items())
            if value and value not in known:
                options = (*options, (value, _body_name(value, document, around)))
            yield Token("body", path=path, value=value or "", options=options)
        case "bodies":
            known = _bodies_before(step, document, around)
            known.pop(getattr(step, "body", None) or "", None)
            if path == "also":
                if len(known) < (1 if getattr(step, "body", None) else 2) and not value:
                    return
                yield Token("words", ", also ")
            chosen = tuple((body, _body_name(body, document, around)) for body in value if body not in known)
            yield Token("bodies", path=path, options=(*known.items(), *chosen), chosen=tuple(value))
        case "rows":
            yield from _rows(path, value, step, document, around)
        case "link":
            assert isinstance(value, LinkPick)
            parts = tuple((d.id, d.name) for d in around.documents if d.id != document.id)
            yield Token("link", words.link_words(value, dict(parts)), path, value.document, parts)
        case _:
            if path == "file":
                yield Token("words", f"“{step.typed(path)}”")
                return
            options = tuple((word, _CHOICES.get(word, word)) for word in step.choices(path))
            yield Token("choice", path=path, value=str(value), options=options)


def _rows(path: str, value: tuple[Row, ...], step: Step, document: Document, around: Around) -> Iterator[Token]:
    """Every row as a clause of its own, with a way to take it out."""
    held = _rows_held(value)
    for number, row in enumerate(value):
        inner = _BRACES.sub(rf"{{{path}.{number}.\1}}", row.sentence)
        yield from _tokens(inner, step, document, around)
        yield Token("set", "×", path, json.dumps(held[:number] + held[number + 1 :]))


def _rows_held(value: tuple[Row, ...]) -> list[dict[str, Any]]:
    return [row.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for row in value]


def _above(step: Step, document: Document) -> list[Step]:
    return document.steps[: document.position(step.id)]


def _acts(step: Step) -> bool:
    """Whether a step can be copied: it adds to a body or cuts one."""
    return isinstance(step, Copying) or (isinstance(step, Shaping) and step.result in ("add", "cut"))


def _profile(path: str, value: Profile | None, document: Document, *, areas: bool) -> Token:
    """A sketch to choose and, where its `areas` count, a chip to choose those."""
    sketches = tuple((s.id, s.label) for s in document.steps if s.type == "sketch")
    if value is None:
        return Token("sketch", path=path, value="", options=(("", "pick a sketch"), *sketches), text="profile")
    chosen = () if value.regions == "all" else value.regions
    count = f"{len(chosen)} area{'s' if len(chosen) != 1 else ''}" if chosen else "all areas"
    return Token("profile", count if areas else "", path, value.sketch, sketches, chosen=chosen)


def _toggles(path: str, value: Any, step: Step, document: Document, kind: str) -> Token:
    """Sketches, or steps, to be chosen one by one in an order."""
    above = _above(step, document)
    if kind == "profiles":
        held = tuple(json.dumps({"sketch": pick.sketch}) for pick in value)
        return Token(
            "toggles",
            path=path,
            value=kind,
            options=tuple((json.dumps({"sketch": s.id}), s.label) for s in above if s.type == "sketch"),
            chosen=held,
        )
    acting = tuple((json.dumps(s.id), s.label) for s in above if _acts(s))
    return Token("toggles", path=path, value=kind, options=acting, chosen=tuple(json.dumps(s) for s in value))


def _plane(path: str, value: PlanePick, step: Step, document: Document) -> Iterator[Token]:
    """A plane as a list to choose from; its offset, and its tilt once it has one, are typed beside it."""
    picks = [value.model_dump(mode="json", exclude_none=True, exclude_defaults=True, exclude={"offset", "tilt", "about"})]
    options = [(name, f"{name} plane") for name in ("top", "front", "side")]
    options += [(f"datum:{s.id}", s.label) for s in _above(step, document) if s.type == "plane"]
    chosen = value.plane or (f"datum:{value.datum}" if value.datum else "face")
    if chosen not in dict(options):
        options.append((chosen, words.plane_words(value, document.steps)))
    yield Token("plane", "", path, chosen, tuple(options), picks=picks if value.face else [])
    yield Token("words", ", raised ")
    yield Token("number", path=f"{path}.offset", value=value.offset, text="length")
    if value.tilt != "0":
        yield Token("words", ", tilted ")
        yield Token("number", path=f"{path}.tilt", value=value.tilt, text="angle")
        yield Token("words", " about ")
        yield Token("choice", path=f"{path}.about", value=value.about, options=(("x", "its x"), ("y", "its y")))


def _axis(path: str, value: AxisPick, step: Step, document: Document) -> Iterator[Token]:
    """An axis as a list to choose from: the document's, datums, lines of sketches; others are picked in the view."""

    def told(pick: AxisPick) -> str:
        return pick.model_dump_json(exclude_none=True, exclude_defaults=True)

    options = [(told(AxisPick(axis=name)), f"the {name} axis") for name in ("x", "y", "z")]
    for other in _above(step, document):
        if other.type == "axis":
            options.append((told(AxisPick(datum=other.id)), other.label))
        if isinstance(other, Drawing):
            options += [(told(AxisPick(sketch=other.id, line=n)), f"{n} of {other.label}") for n in ("x", "y")]
            guides = [n for n, e in other.entities.items() if e.type == "line" and e.construction]
            options += [(told(AxisPick(sketch=other.id, line=n)), f"{named(other, n)} of {other.label}") for n in guides]
    held = told(value)
    if held not in dict(options):
        options.append((held, words.axis_words(value, document.steps)))
    picks = [json.loads(held)] if value.on_model else []
    yield Token("axis", path=path, value=held, options=tuple(options), picks=picks)


def _spots(path: str, value: tuple[Spot, ...] | Spot | None, step: Step, document: Document) -> Iterator[Token]:
    """Picked points as a chip; of a single one on an edge also how far along it."""
    single = not isinstance(value, tuple)
    held = value if isinstance(value, tuple) else (value,) if value is not None else ()
    extras: list[tuple[dict[str, Any], str]] = [({"origin": True}, "origin")]
    extras += [({"datum": s.id}, s.label) for s in _above(step, document) if s.type == "point"]
    picks = [pick.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for pick in held]
    options = tuple((json.dumps(pick), label) for pick, label in extras)
    told = words.spots_words(held, document.steps)
    yield Token("spots", told, path, "single" if single else "several", options, picks=picks)
    if isinstance(value, Spot) and value.edge is not None and value.at == "along":
        yield Token("words", ", ")
        yield Token("number", path=f"{path}.share", value=value.share, text="percent")
        yield Token("words", " along it")


def _bodies_before(step: Step, document: Document, around: Around) -> dict[str, str]:
    """Bodies of the last build that a step may name: those made by the steps above it."""
    above = {other.id for other in document.steps[: document.position(step.id)]}
    return {body: name for body, name in around.bodies if maker(body) in above}


def _body_name(body: str, document: Document, around: Around) -> str:
    """What to call a body that is used up by now: what it was called or, before any build, the step that made it."""
    label = next((step.label for step in document.steps if step.id == maker(body)), "a body no longer there")
    return around.called.get(body) or label


def moved_on(document: Document, around: Around) -> list[tuple[str, LinkPick, DocumentCard]]:
    """Link steps pinned to a revision that is no longer the newest: step id, its pick, the linked document."""
    cards = {card.id: card for card in around.documents}
    found = []
    for step in document.steps:
        pick = getattr(step, "part", None)
        if isinstance(pick, LinkPick) and pick.revision is not None and not step.skip:
            card = cards.get(pick.document)
            if card is not None and card.head != pick.revision:
                found.append((step.id, pick, card))
    return found


@dataclass(frozen=True)
class Addable:
    """A kind of step for the list to add from; `suits` says what it can start from, as one word each."""

    type: str
    word: str
    about: str
    picture: tuple[str, str]
    suits: tuple[str, ...]


def addable(document: Document) -> list[Addable]:
    """Step types for this sheet; its own kind first, in the order of work."""
    kinds = [kind for name, kind in Step.registry.items() if document.kind in kind.document_kinds]
    kinds.sort(key=lambda kind: (f".{document.kind}." not in kind.__module__, kind.rank))
    return [Addable(k.model_fields["type"].default, k.word, k.purpose, k.picture, k.suits) for k in kinds]
