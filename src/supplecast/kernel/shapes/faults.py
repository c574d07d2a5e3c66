"""What the bindings throw: their exception classes have no base in common, so they are gathered here."""

from __future__ import annotations

from typing import Any

from OCP import Geom, Geom2d, Standard, StdFail, TopoDS, gp

from supplecast.errors import KernelError


def _thrown(module: Any) -> list[type[Exception]]:
    return [kind for kind in vars(module).values() if isinstance(kind, type) and issubclass(kind, Exception)]


KERNEL_FAULTS: tuple[type[Exception], ...] = tuple(
    {fault for module in (Standard, StdFail, Geom, Geom2d, TopoDS, gp) for fault in _thrown(module)}
)
REFUSALS: tuple[type[Exception], ...] = (*KERNEL_FAULTS, KernelError)
"""A verb that did not work out: thrown by the bindings, or found wrong by our own checks."""
