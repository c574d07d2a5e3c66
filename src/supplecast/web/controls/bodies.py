"""Bodies: one to choose, or several to switch on and off."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.web.controls import Control, Place, Token

_EVERY = "*"


class Body(Control):
    """A body; blank where the step finds the one that is meant by itself."""

    kinds = ("body",)

    def tokens(self, place: Place) -> Iterator[Token]:
        known, value = place.bodies, place.value
        options = (("", place.spec.blank or f"the {place.path}"), *known.items())
        if value and value not in known:
            options = (*options, (value, place.body_name(value)))
        settings = {body: body or None for body, _ in options}
        yield Token("body", path=place.path, value=value or "", options=options, settings=settings, template="select")


class Bodies(Control):
    """Several bodies. Where they are further ones beside a first (the field's `lead` says so), they are offered once there are
    any.
    """

    kinds = ("bodies",)

    def tokens(self, place: Place) -> Iterator[Token]:
        known, value, first = place.bodies, place.value, getattr(place.step, "tool", None) or getattr(place.step, "body", None)
        known.pop(first or "", None)
        if place.spec.lead:
            if len(known) < (1 if first else 2) and not value:
                return
            yield Token("words", place.spec.lead)
        chosen = tuple((body, place.body_name(body)) for body in value if body not in known)
        yield Token("bodies", path=place.path, options=(*known.items(), *chosen), chosen=tuple(value))


class Link(Control):
    """A part of another document."""

    kinds = ("link",)

    def tokens(self, place: Place) -> Iterator[Token]:
        document = place.value.document
        parts = [(d.id, d.name) for d in place.around.documents if d.id != place.document.id]
        if document not in dict(parts):
            parts.append((document, "a document no longer there"))
        heads = {card.id: card.head for card in place.around.documents}
        settings = {part: {"document": part, "revision": heads.get(part)} for part, _ in parts}
        yield Token("link", path=place.path, value=document, options=tuple(parts), settings=settings, template="select")
        outcome = place.around.outcomes.get(place.step.id)
        bodies = tuple(outcome.offers) if outcome is not None else ()
        if len(bodies) > 1:
            yield from self._which(place, bodies)
        pinned, head = place.value.revision, heads.get(document)
        options = (("pinned", f"at revision {pinned or head}"), ("following", f"following it, now at revision {head}"))
        ways = {"pinned": pinned or head, "following": None}
        value = "following" if pinned is None else "pinned"
        yield Token("words", " ")
        yield Token("way", path=f"{place.path}.revision", value=value, options=options, settings=ways, template="select")

    def _which(self, place: Place, bodies: tuple[tuple[str, str], ...]) -> Iterator[Token]:
        """One of the bodies of the other document and further ones with it, or all of them."""
        pick = place.value
        chosen = pick.body if pick.body in dict(bodies) else bodies[0][0]
        kept = {"document": pick.document, "revision": pick.revision}
        settings = {body: {**kept, "body": body} for body, _ in bodies}
        settings[_EVERY] = {**kept, "every": True}
        options = (*bodies, (_EVERY, f"all {len(bodies)} bodies"))
        value = _EVERY if pick.every else chosen
        yield Token("words", ", ")
        yield Token("way", path=place.path, value=value, options=options, settings=settings, template="select")
        if not pick.every:
            others = tuple((body, words) for body, words in bodies if body != chosen)
            yield Token("bodies", " with ", path=f"{place.path}.also", options=others, chosen=tuple(pick.also))
