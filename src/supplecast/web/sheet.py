"""The build sheet as the templates print it: every step a sentence of words and fields."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from supplecast.document import words
from supplecast.document.fields import LinkPick, PlanePick, Profile
from supplecast.document.model import Document
from supplecast.document.step import Step
from supplecast.store.library import DocumentCard

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
    details: tuple[tuple[str, tuple[Token, ...]], ...]
    figures: bool
    status: str = "waiting"
    field: str = ""
    message: str = ""
    notes: tuple[str, ...] = ()
    flags: tuple[Mapping[str, Any], ...] = ()
    culprits: Sequence[Mapping[str, Any]] = ()
    after_standing: bool = False


@dataclass(frozen=True)
class Around:
    """What the sheet knows of the world: bodies of the last build, other documents of the project, outcomes."""

    bodies: tuple[tuple[str, str], ...] = ()
    documents: tuple[DocumentCard, ...] = ()
    outcomes: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)


def lines(document: Document, around: Around, standing: str | None = None) -> list[Line]:
    found, after = [], False
    for number, step in enumerate(document.steps, 1):
        outcome = around.outcomes.get(step.id, {})
        found.append(
            Line(
                number=number,
                id=step.id,
                type=step.type,
                word=step.word,
                label=step.label,
                skip=step.skip,
                tokens=tuple(_tokens(step.sentence(), step, document, around)),
                details=tuple((name, tuple(_tokens(text, step, document, around))) for name, text in step.details()),
                figures=step.type == "sketch",
                status="skipped" if step.skip else str(outcome.get("status", "waiting")),
                field=str(outcome.get("field", "")),
                message=str(outcome.get("message", "")),
                notes=tuple(outcome.get("notes", ())),
                flags=tuple(outcome.get("flags", ())),
                culprits=outcome.get("culprits", ()),
                after_standing=after,
            )
        )
        after = after or step.id == standing
    return found


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
    kind = step.spec_of(path).kind
    value: Any = getattr(step, path, None) if "." not in path else None
    match kind:
        case "length" | "angle" | "percent" | "count":
            yield Token("number", path=path, value=step.typed(path), text=kind)
        case "text":
            yield Token("text", path=path, value=step.typed(path) or "", text=step.word)
        case "faces" | "edges":
            yield Token(
                "picks",
                words.picks_words(value, document.steps),
                path,
                kind,
                picks=[pick.model_dump(mode="json", exclude_none=True) for pick in value],
            )
        case "profile":
            assert isinstance(value, Profile)
            sketches = tuple((s.id, s.label) for s in document.steps if s.type == "sketch")
            areas = () if value.regions == "all" else value.regions
            count = f"{len(areas)} area{'s' if len(areas) != 1 else ''}" if areas else "all areas"
            yield Token("profile", count, path, value.sketch, sketches, chosen=areas)
        case "plane":
            assert isinstance(value, PlanePick)
            picks = (
                [value.model_dump(mode="json", exclude_none=True, exclude={"offset", "tilt", "about"})] if value.face else []
            )
            yield Token("plane", words.plane_words(value, document.steps), path, value.plane or "face", picks=picks)
            yield Token("words", ", raised ")
            yield Token("number", path=f"{path}.offset", value=value.offset, text="length")
            if value.tilt != "0":
                yield Token("words", ", tilted ")
                yield Token("number", path=f"{path}.tilt", value=value.tilt, text="angle")
                yield Token("words", " about ")
                yield Token("choice", path=f"{path}.about", value=value.about, options=(("x", "its x"), ("y", "its y")))
        case "body":
            known = _bodies_before(step, document, around)
            options = (("", f"the {path}"), *known.items())
            if value and value not in known:
                options = (*options, (value, _body_name(value, document)))
            yield Token("body", path=path, value=value or "", options=options)
        case "bodies":
            known = _bodies_before(step, document, around)
            known.pop(getattr(step, "body", None) or "", None)
            chosen = tuple((body, _body_name(body, document)) for body in value if body not in known)
            yield Token("bodies", path=path, options=(*known.items(), *chosen), chosen=tuple(value))
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


def _bodies_before(step: Step, document: Document, around: Around) -> dict[str, str]:
    """Bodies of the last build that a step may name: those made by the steps above it."""
    above = {other.id for other in document.steps[: document.position(step.id)]}
    return {body: name for body, name in around.bodies if body.split(".")[0] in above}


def _body_name(body: str, document: Document) -> str:
    """What to call a body that is used up by now: after the step that made it."""
    return next((step.label for step in document.steps if step.id == body.split(".")[0]), "a body no longer there")


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


def addable(document: Document) -> list[tuple[str, str, str]]:
    """Step types for this sheet: type, word, what it is about; its own kind first, in the order of work."""
    kinds = [kind for name, kind in Step.registry.items() if document.kind in kind.sheets and name != "import"]
    kinds.sort(key=lambda kind: (f".{document.kind}." not in kind.__module__, kind.rank))
    return [(kind.model_fields["type"].default, kind.word, kind.purpose) for kind in kinds]
