"""What is worked out of a solid once and kept on it, each under a key that says of what type it is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Generic, TypeVar, cast

if TYPE_CHECKING:
    from supplecast.kernel.shapes.shape import Solid

T = TypeVar("T")


@dataclass(frozen=True, eq=False)
class Memo(Generic[T]):
    """One thing known of solids. Two memos are the same only if they are one object, whatever their names."""

    name: str

    def of(self, solid: Solid, make: Callable[[], T]) -> T:
        """What is known, made first if it is not."""
        if self not in solid.memos:
            solid.memos[self] = make()
        return cast(T, solid.memos[self])

    def known(self, solid: Solid) -> T | None:
        return cast("T | None", solid.memos.get(self))

    def keep(self, solid: Solid, value: T) -> T:
        solid.memos[self] = value
        return value
