"""What a rebuild goes by to tell whether something has changed: short digests and keys of what was read."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

from supplecast.document.step import Step
from supplecast.errors import QuantityError
from supplecast.quantities import Scope

Read = tuple[str, str, str]
"""What was read: its kind, its name and its key at the time."""


def digest(*parts: str) -> str:
    """128 bits of SHA-256 over some texts, in hexadecimal."""
    return hashlib.sha256("\x1f".join(parts).encode()).hexdigest()[:32]


def order_key(steps: Sequence[Step]) -> str:
    """Which steps there are, in which order, and which are skipped."""
    return " ".join(f"-{step.id}" if step.skip else step.id for step in steps)


def steps_ahead(steps: Sequence[Step], step_id: str, kind: str) -> int:
    """How many steps of a type come after a step and are used."""
    place = next(k for k, step in enumerate(steps) if step.id == step_id)
    return sum(step.type == kind and not step.skip for step in steps[place + 1 :])


def value_key(scope: Scope, name: str) -> str:
    """What a named value comes to, as a key: the same number under another spelling changes nothing."""
    try:
        quantity = scope.named(name)
    except QuantityError as fault:
        return f"fault {fault.message} {fault.hint}"
    return f"{quantity.value!r} {quantity.length} {quantity.angle} {quantity.bare}"
