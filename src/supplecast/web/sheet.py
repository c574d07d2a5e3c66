"""The build sheet as the templates print it: every step a sentence of words and fields."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass

from supplecast.document.fields import LinkPick
from supplecast.document.model import Document
from supplecast.document.step import in_order
from supplecast.errors import StoreError
from supplecast.store.library import DocumentCard
from supplecast.web.controls import Around, Place, Token
from supplecast.web.controls.rows import sentence
from supplecast.wire.reports import BuiltStep

__all__ = ["Addable", "Around", "Line", "Token", "addable", "behind", "below", "lines", "moved_on", "spoken"]


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
    swaps: bool
    outcome: BuiltStep | None = None
    after_standing: bool = False

    @property
    def status(self) -> str:
        return "skipped" if self.skip else self.outcome.status if self.outcome else "waiting"


def lines(document: Document, around: Around, standing: str | None = None) -> list[Line]:
    rows, after = [], False
    for number, step in enumerate(document.steps, 1):
        place = Place("", step, document, around)
        outcome = around.outcomes.get(step.id)
        rows.append(
            Line(
                number=number,
                id=step.id,
                type=step.type,
                word=step.word,
                label=step.label,
                skip=step.skip,
                tokens=tuple(sentence(step.sentence(), place)),
                more=tuple(sentence(step.more(), place)),
                details=tuple((name, tuple(sentence(text, place))) for name, text in step.details()),
                figures=step.type == "sketch",
                swaps=bool(step.held("body")) and len(step.held("tools") or ()) == 1,
                outcome=outcome,
                after_standing=after,
            )
        )
        after = after or step.id == standing
    return rows


def spoken(line: Line) -> str:
    """A step's sentence in plain words, as one would read it aloud."""
    whole = "".join(token.spoken for token in line.tokens)
    return re.sub(r"\s+([,;.])", r"\1", " ".join(whole.split()))


def moved_on(document: Document, around: Around) -> list[tuple[str, LinkPick, DocumentCard]]:
    """Link steps pinned to a revision that is no longer the newest: step id, its pick, the linked document."""
    cards = {card.id: card for card in around.documents}
    moved = []
    for step in document.steps:
        for pick in step.links if not step.skip else ():
            card = cards.get(pick.document)
            if pick.revision is not None and card is not None and card.head != pick.revision:
                moved.append((step.id, pick, card))
    return moved


def behind(document: Document, around: Around, head: Callable[[str], Document]) -> list[tuple[DocumentCard, list[str]]]:
    """The documents that this one builds on, however deep, which pin an older revision of something themselves: the deepest
    first, each with the names of what it has not taken up. `head` reads a document as it stands.
    """
    cards = {card.id: card for card in around.documents}
    late = [(cards[name], moved_on(other, around)) for name, other in below(document, head).items() if name in cards]
    return [(card, list(dict.fromkeys(newer.name for _, _, newer in moved))) for card, moved in late if moved]


def below(document: Document, head: Callable[[str], Document]) -> dict[str, Document]:
    """The documents that one links, and those that these link, each read once, what others build on before these."""
    order: dict[str, Document] = {}
    begun = {document.id}

    def walk(inner: Document) -> None:
        for pick in inner.links:
            if pick.document not in begun:
                begun.add(pick.document)
                with suppress(StoreError):  # one that is no longer there is told of by the link itself
                    other = head(pick.document)
                    walk(other)
                    order[pick.document] = other

    walk(document)
    return order


@dataclass(frozen=True)
class Addable:
    """A kind of step for the list to add from; `suits` says what it can start from, as one word each, `search` by which further
    words it is found.
    """

    type: str
    word: str
    about: str
    picture: tuple[str, str]
    suits: tuple[str, ...]
    search: str


def addable(document: Document) -> list[Addable]:
    """Step types for this sheet; its own kind first, in the order of work."""
    kinds = [kind for _, kind in in_order() if document.kind in kind.document_kinds]
    kinds.sort(key=lambda kind: f".{document.kind}." not in kind.__module__)
    return [Addable(k.model_fields["type"].default, k.word, k.purpose, k.picture, k.suits, k.search) for k in kinds]
