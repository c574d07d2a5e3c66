"""The geometry kernel behind small verbs on solids: the only package that imports the geometry bindings.

The verbs' modules are loaded when first used (`kernel.walls.shell(...)`), so that a process that only reads and writes
documents never loads the bindings.
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from supplecast.kernel import (
        blend,
        blob,
        boolean,
        check,
        contact,
        contour,
        datums,
        edges,
        emboss,
        extent,
        facets,
        facing,
        faults,
        feature,
        files,
        flats,
        flatten,
        gauge,
        halves,
        hinge,
        history,
        integrate,
        land,
        lean,
        lip,
        loft,
        measure,
        mesh,
        move,
        nudge,
        outset,
        parting,
        patches,
        plain,
        post,
        profile,
        rectangle,
        revolve,
        rib,
        route,
        runner,
        score,
        seam,
        shape,
        sheet,
        shutoff,
        silhouette,
        skin,
        slide,
        snap,
        solid,
        spline,
        split,
        standing,
        sweep,
        tidy,
        turned,
        wallcheck,
        walls,
        wrap,
    )

__all__ = [
    "blend",
    "blob",
    "boolean",
    "check",
    "contact",
    "contour",
    "datums",
    "edges",
    "emboss",
    "extent",
    "facets",
    "facing",
    "faults",
    "feature",
    "files",
    "flats",
    "flatten",
    "gauge",
    "halves",
    "hinge",
    "history",
    "integrate",
    "land",
    "lean",
    "lip",
    "loft",
    "measure",
    "mesh",
    "move",
    "nudge",
    "outset",
    "parting",
    "patches",
    "plain",
    "post",
    "profile",
    "rectangle",
    "revolve",
    "rib",
    "route",
    "runner",
    "score",
    "seam",
    "shape",
    "sheet",
    "shutoff",
    "silhouette",
    "skin",
    "slide",
    "snap",
    "solid",
    "spline",
    "split",
    "standing",
    "sweep",
    "tidy",
    "turned",
    "wallcheck",
    "walls",
    "wrap",
]


def __getattr__(name: str) -> Any:
    if name in __all__:
        return importlib.import_module(f"{__name__}.{name}")
    raise AttributeError(name)


def preload() -> None:
    """Load every verb, so that a process forked from this one starts warm."""
    for name in __all__:
        importlib.import_module(f"{__name__}.{name}")
