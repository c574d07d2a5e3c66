"""A face of the kernel as a key, under which things are remembered of it whatever solids it is part of."""

from __future__ import annotations

from typing import Any


class FaceKey:
    """A face as a dictionary key: same surface, same place, whatever its orientation."""

    __slots__ = ("face",)

    def __init__(self, face: Any) -> None:
        self.face = face

    def __hash__(self) -> int:
        return hash(self.face)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, FaceKey) and bool(self.face.IsSame(other.face))
