"""The steel of a tool, cut open by a step's tools wherever they reach it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from supplecast import kernel
from supplecast.document.builder import Builder
from supplecast.document.state import Entry, Role
from supplecast.errors import KernelError, MissedError
from supplecast.naming import Body

BOTH_SIDES: tuple[Role, ...] = ("cavity", "core", "cavity insert", "core insert", "stripper")


def bored(at: Builder, field: str, steel: Iterable[Entry], tools: Sequence[Body]) -> None:
    """Take tools out of bodies, as this step has left them so far; bodies that none of them reaches stay as they are."""
    for entry in steel:
        at.target(entry.id)
        body = at.written(entry).body
        try:
            (cut,) = kernel.boolean.cut(body.solid, [tool.solid for tool in tools])
        except MissedError:
            continue
        except KernelError as fault:
            at.fail(field, f"{entry.name} cannot be cut open there: {fault.message}", fault.hint)
        at.replace(entry, at.named(cut, body, *tools))
