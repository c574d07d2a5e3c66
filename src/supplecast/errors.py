"""The one error family: every fault a user can cause is one of these, with words they can act on."""

from __future__ import annotations

from typing import Any


class SuppleError(Exception):
    """A fault with a message for people and, where one is known, a hint that says what to do."""

    def __init__(self, message: str, hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.hint = hint

    def __str__(self) -> str:
        return f"{self.message} {self.hint}".strip()


class QuantityError(SuppleError):
    """An expression that cannot be read, or whose unit does not suit the field."""


class DocumentError(SuppleError):
    """A document that cannot be read; `path` leads to the fault inside its JSON."""

    def __init__(self, message: str, hint: str = "", path: str = "") -> None:
        super().__init__(f"{path}: {message}" if path else message, hint)
        self.path = path


class KernelError(SuppleError):
    """A verb the geometry kernel could not do, or did wrongly.

    `faces` and `edges` index the input solid's culprits, `bodies` the inputs at fault; `sized` says that a smaller size
    may well fit. `field` names what is at fault where that is not the size: a step that has a field so called is told of that.
    """

    def __init__(
        self,
        message: str,
        hint: str = "",
        *,
        faces: tuple[int, ...] = (),
        edges: tuple[int, ...] = (),
        bodies: tuple[int, ...] = (),
        sized: bool = False,
        field: str = "",
    ) -> None:
        super().__init__(message, hint)
        self.field = field
        self.faces = faces
        self.edges = edges
        self.bodies = bodies
        self.sized = sized


class MissedError(KernelError):
    """A cut that removes nothing, since its tool lies beside the body."""


class TouchingError(KernelError):
    """Walls that would meet along a line without thickness."""


class SketchError(SuppleError):
    """A sketch that cannot be solved or whose outlines do not close; `lit` names the constraints at fault, `field` the size
    of a figure.
    """

    def __init__(self, message: str, hint: str = "", *, lit: tuple[str, ...] = (), field: str = "") -> None:
        super().__init__(message, hint)
        self.lit = lit
        self.field = field


class MisfitError(ValueError):
    """A value in a document that cannot be; `path` leads on to it from the object that is read."""

    def __init__(self, message: str, path: str) -> None:
        super().__init__(message)
        self.path = path


class StepError(SuppleError):
    """A step that cannot be built: names the field at fault.

    `culprits` are references to the faces or edges at fault, as JSON; `sized` says that a smaller value may well fit.
    """

    def __init__(
        self,
        field: str,
        message: str,
        hint: str = "",
        *,
        culprits: tuple[dict[str, Any], ...] = (),
        sized: bool = False,
    ) -> None:
        super().__init__(message, hint)
        self.field = field
        self.culprits = culprits
        self.sized = sized


class ExchangeError(SuppleError):
    """A file that cannot be read or written."""


class BusyError(SuppleError):
    """More was asked for than can be done just now."""


class StoreError(SuppleError):
    """Something asked of the store that is not there or must not be done."""


class ConflictError(StoreError):
    """A write based on a revision that is no longer the newest."""
