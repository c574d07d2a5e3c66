"""How sure it is what a reference or rule leads to in the body as it is now.

ok: found, nothing speaks against it · ordered: told from its like by order only · split: it has come apart · merged: it has
become one with others · partial: found, though what lies round it has changed · conflict: surroundings and order disagree ·
ambiguous: several could be meant · lost: nothing carries its name any more.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Status = Literal["ok", "ordered", "split", "merged", "partial", "conflict", "ambiguous", "lost"]
STOPPING: frozenset[Status] = frozenset({"ambiguous", "lost"})
"""With these nothing is used: the step stops and asks."""


@dataclass(frozen=True)
class Resolution:
    """`items` are the face or edge indices to use; `other` is a second reading, or the candidates when `ambiguous`."""

    status: Status
    items: tuple[int, ...] = ()
    words: str = ""
    other: tuple[int, ...] = ()
