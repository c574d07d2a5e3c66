"""How bodies have gone since a print was laid on their faces."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from supplecast.document.coat import Motion
from supplecast.document.state import Entry
from supplecast.geometry import Floats
from supplecast.kernel.shapes import lineage
from supplecast.naming import Body

_STILL = np.eye(3, 4)


def since(body: Body, before: Iterable[Entry]) -> tuple[tuple[str, Motion], ...]:
    """For each mark on a body the motion since the print was laid, by what is known of the bodies `before` it; those that have
    not gone are left out, and so are copies of which nothing is known.
    """
    sources = {id(entry.body.solid): entry for entry in before}
    motion, solid = _STILL, body.solid
    source = sources.get(id(solid))
    while source is None and (came := lineage.carried(solid)) is not None:
        solid, step = came
        motion = _after(motion, step)
        source = sources.get(id(solid))
    rows = []
    for mark in body.coats:
        holders = [source] if source is not None else list(sources.values())
        known, whose = _known(mark, [entry for entry in holders if entry.body.coats])
        if whose is None or (source is None and known != mark):
            continue  # a copy within a body that was not carried as one
        gone = _after(motion, _matrix(dict(whose.moved).get(known)))
        if not np.allclose(gone, _STILL, atol=1e-12):
            rows.append((mark, tuple(float(value) for value in gone.ravel())))
    return tuple(rows)


def _known(mark: str, holders: Sequence[Entry]) -> tuple[str, Entry | None]:
    """What a mark was called before, and on which body: the same, or what stands within it."""
    for entry in holders:
        if mark in entry.body.coats:
            return mark, entry
    for entry in holders:
        for other in entry.body.coats:
            if f"{{{other}}}" in mark or mark.startswith(f"{other}["):
                return other, entry
    return mark, None


def _matrix(motion: Motion | None) -> Floats:
    return _STILL if motion is None else np.array(motion).reshape(3, 4)


def _after(second: Floats, first: Floats) -> Floats:
    """One motion (3, 4) after another."""
    return np.column_stack([second[:, :3] @ first[:, :3], second[:, :3] @ first[:, 3] + second[:, 3]])
