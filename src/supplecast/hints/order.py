"""Hints on the good order of work: draft, then round, then shell."""

from __future__ import annotations

from collections.abc import Iterator

from supplecast.hints import Hint, Watched, rule


@rule
def rounds_after_the_shell(watched: Watched) -> Iterator[Hint]:
    """Rounds of edges that were there before the shell: made before it, inner and outer rounds would be concentric (common
    practice, no source).
    """
    for step, _ in watched.working("fillet"):
        for shell, _ in watched.working("shell"):
            if not watched.before(shell, step):
                continue
            makers = watched.makers(step)
            if makers and all(watched.before(watched.document.step(maker), shell) for maker in makers):
                edit = watched.moved_before(step, shell)
                if edit is not None:
                    words = (
                        "These rounds come after the shell, so that the wall is thinner at them. Made before it, it stays even."
                    )
                    yield Hint("rounds after the shell", step.id, words, "move before the shell", edit)


@rule
def draft_after_its_rounds(watched: Watched) -> Iterator[Hint]:
    """A draft refused since its faces end in rounds: draft first, round afterwards."""
    for step, outcome in watched.failed("draft"):
        if "rounded where it ends" not in outcome.message:
            continue
        for fillet, _ in watched.working("fillet"):
            if watched.before(fillet, step):
                edit = watched.moved_before(step, fillet)
                if edit is not None:
                    yield Hint("draft after rounds", step.id, "Draft before rounding.", "move before the rounds", edit)
                break
