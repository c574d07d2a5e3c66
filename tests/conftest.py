"""What all tests share: the steps loaded, and short ways to write documents and build them."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings
from playwright.sync_api import Page

from supplecast.document.model import Document, read_document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.document.state import Entry
from supplecast.document.step import load_steps
from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine
from tests.referee.browser import opened, served
from tests.referee.desk import Desk

load_steps()
os.environ.setdefault("NO_AT_BRIDGE", "1")

# The same examples at each run, so that a red run is the change's own doing; `--hypothesis-profile=hunt` looks further.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("hunt", derandomize=False, deadline=None, print_blob=True)
settings.load_profile("steady")

STEPS = list[dict[str, Any]]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Marks what drives a browser, and lets those files begin first, so that no core waits for the longest at the end."""
    for item in items:
        if "page" in getattr(item, "fixturenames", ()):
            item.add_marker("browser")
    driven = {item.path for item in items if item.get_closest_marker("browser")}
    slow = {item.path for item in items if item.get_closest_marker("slow")}
    items.sort(key=lambda item: (item.path not in driven, item.path not in slow))


def part(steps: STEPS, **more: Any) -> Document:
    return read_document(
        {"format": "supplecast", "version": 1, "id": "part", "kind": "part", "name": "Part", "steps": steps, **more}
    )


def tool(steps: STEPS, **more: Any) -> Document:
    return read_document(
        {"format": "supplecast", "version": 1, "id": "tool", "kind": "tool", "name": "Tool", "steps": steps, **more}
    )


def built(document: Document, *others: Document, memory: Memory | None = None) -> Built:
    project = Project({(d.id, None): d for d in (document, *others)})
    return rebuild(document, memory, outside=project)


def bodies(document: Document, *others: Document) -> dict[str, Entry]:
    """Bodies of a document that must build."""
    result = built(document, *others)
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    return dict(result.state.bodies)


def rectangle(step: str, width: str, height: str, **more: Any) -> dict[str, Any]:
    on = more.pop("on", {"plane": "top"})
    return {"id": step, "type": "sketch", "on": on, "draw": [{"kind": "rectangle", "width": width, "height": height, **more}]}


def circle(step: str, diameter: str, **more: Any) -> dict[str, Any]:
    on = more.pop("on", {"plane": "top"})
    return {"id": step, "type": "sketch", "on": on, "draw": [{"kind": "circle", "diameter": diameter, **more}]}


def drawn(step: str, points: dict[str, tuple[float, float]], entities: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": step, "type": "sketch", "points": points, "entities": entities, **more}


def chain(step: str, *corners: tuple[float, float], **more: Any) -> dict[str, Any]:
    """A sketch of straight lines L1, L2 … through corners, open."""
    points = {f"p{i}": corner for i, corner in enumerate(corners)}
    lines = {f"L{i}": {"type": "line", "a": f"p{i - 1}", "b": f"p{i}"} for i in range(1, len(corners))}
    return drawn(step, points, lines, **more)


def extrude(step: str, sketch: str, distance: str, **more: Any) -> dict[str, Any]:
    return {"id": step, "type": "extrude", "profile": {"sketch": sketch}, "distance": distance, **more}


TRAY: STEPS = [
    rectangle("out", "124 mm", "72 mm"),
    extrude("ext", "out", "27 mm", direction="down", draft="1.5 deg"),
    {"id": "upr", "type": "fillet", "edges": [{"rule": "uprights", "of": "ext"}], "radius": "11 mm"},
    {"id": "flo", "type": "fillet", "edges": [{"rule": "outer loop", "of": "ext.end"}], "radius": "5 mm"},
    {"id": "shl", "type": "shell", "wall": "2.2 mm", "open": [{"face": "ext.start"}]},
]

MOLD: STEPS = [
    {"id": "lnk", "type": "link", "part": {"document": "part"}},
    {"id": "shr", "type": "shrink", "shrinkage": "0.55 %"},
    {"id": "blk", "type": "block", "around": "24 mm", "below": "24 mm", "above": "26 mm"},
    {"id": "cav", "type": "subtract part"},
    {"id": "spl", "type": "split", "at": {"face": "lnk.of{ext.start}", "body": "lnk"}},
    {"id": "pin", "type": "register pins", "diameter": "8 mm", "height": "12 mm", "inset": "11 mm", "gap": "0.1 mm"},
    {"id": "fee", "type": "feed", "outer": "4 mm", "inner": "6.4 mm"},
    {"id": "sho", "type": "trial shot"},
]


@pytest.fixture(scope="session")
def tray() -> Document:
    return part(TRAY)


@pytest.fixture(scope="session")
def mold(tray: Document) -> Built:
    result = built(tool(MOLD), tray)
    assert result.ok, [(o.step, o.message) for o in result.outcomes if o.status != "ok"]
    return result


# Known to bring the kernel down: an outward draft with a hole of many sides, shelled (found by random documents).
CRASHING: STEPS = [
    {"id": "s1", "type": "sketch", "draw": [{"kind": "polygon", "diameter": "35.126", "sides": 5},
                                            {"kind": "polygon", "diameter": "25.291", "sides": 9}]},
    extrude("e1", "s1", "18", draft="-7"),
    {"id": "h1", "type": "shell", "wall": "2.760", "open": [{"face": "e1.end"}]},
    rectangle("s2", "9", "9", x="80"),
    extrude("e2", "s2", "5"),
]  # fmt: skip


@pytest.fixture(scope="module")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    yield from served(tmp_path_factory.mktemp("data"))


@pytest.fixture
def page(address: str) -> Iterator[Page]:
    with opened(address) as made:
        yield made


@pytest.fixture(scope="module")
def engine() -> Iterator[Engine]:
    made = Engine(slots=1)
    yield made
    made.close()


@pytest.fixture
def desk(tmp_path: Path, engine: Engine) -> Desk:
    library = Library(tmp_path)
    app = create_app(library, engine)
    app.config["TESTING"] = True
    return Desk(app.test_client(), library)
