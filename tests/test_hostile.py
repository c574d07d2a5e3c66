"""What hostile hands send: documents, names, numbers and files made to hurt, and the words that answer them."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from supplecast.document.model import Document
from supplecast.store.library import Library
from supplecast.web.api import sketching
from supplecast.web.app import create_app
from tests.conftest import drawn, part
from tests.referee.kills import NoEngine

_RANDOM = random.Random(7)


def _place() -> tuple[float, float]:
    return _RANDOM.uniform(-100, 100), _RANDOM.uniform(-100, 100)


def _lines(count: int) -> dict[str, Any]:
    points = {f"{end}{k}": _place() for k in range(count) for end in "ab"}
    return drawn("s", points, {f"L{k}": {"type": "line", "a": f"a{k}", "b": f"b{k}"} for k in range(count)})


def _rings(count: int) -> dict[str, Any]:
    rings = {f"C{k}": {"type": "circle", "c": f"p{k}", "r": 5.0 + k} for k in range(count)}
    return drawn("s", {f"p{k}": (0.001 * k, 0) for k in range(count)}, rings)


def _splines(count: int) -> dict[str, Any]:
    points = {f"p{k}x{i}": _place() for k in range(count) for i in range(20)}
    ends = {f"{end}{k}": _place() for k in range(count) for end in "fl"}
    curves = {
        f"S{k}": {"type": "spline", "through": [f"p{k}x{i}" for i in range(20)], "first": f"f{k}", "last": f"l{k}"}
        for k in range(count)
    }
    return drawn("s", points | ends, curves)


def _tangle(count: int) -> dict[str, Any]:
    points = {f"p{k}": _place() for k in range(count)}
    held = (_RANDOM.sample(sorted(points), 2) for _ in range(6000))
    sizes = {f"c{k}": {"type": "distance", "on": on, "value": "30 mm"} for k, on in enumerate(held)}
    return drawn("s", points, {}, constraints=sizes)


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path)


@pytest.fixture
def client(library: Library) -> FlaskClient:
    return create_app(library, NoEngine()).test_client()


def _kept(library: Library, document: Document) -> str:
    return library.add_document(library.create_project("P").id, document).id


@pytest.mark.parametrize("sketch", [_lines(2000), _rings(1900), _splines(30)], ids=["lines", "rings", "splines"])
def test_a_sketch_too_crowded_to_read_still_opens_without_its_areas(
    library: Library, client: FlaskClient, sketch: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    document = _kept(library, part([sketch]))
    shown = client.get(f"/api/documents/{document}/sketches/s").get_json()["scene"]
    assert shown["regions"] == [] and "Too much lies here" in shown["crowded"] and len(shown["entities"]) >= 30
    monkeypatch.setattr(sketching, "scene", None)  # it is not worked out again for the next who asks
    assert client.get(f"/api/documents/{document}/sketches/s").get_json()["scene"] == shown


def test_a_sketch_too_much_to_solve_is_refused_once_and_for_all(
    library: Library, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = _kept(library, part([_tangle(1500)]))
    answers = [client.get(f"/api/documents/{document}/sketches/s")]
    monkeypatch.setattr(sketching, "_live", None)
    answers.append(client.get(f"/api/documents/{document}/sketches/s"))
    for answer in answers:
        assert answer.status_code == 422 and "more work than the page may wait for" in answer.get_json()["title"]
    assert client.get(f"/documents/{document}").status_code == 200


def test_named_values_that_multiply_do_not_hold_the_server_up(library: Library, client: FlaskClient) -> None:
    values = {"a0": "1 mm"} | {f"a{k}": "+".join([f"a{k - 1}"] * 100) for k in range(1, 10)}
    size = {"c": {"type": "distance", "on": ["p0", "p1"], "value": "9 + a9"}}
    line = {"L": {"type": "line", "a": "p0", "b": "p1"}}
    document = _kept(library, part([drawn("s", {"p0": (0, 0), "p1": (5, 0)}, line, constraints=size)], values=values))
    for _ in range(20):
        answer = client.get(f"/api/documents/{document}/sketches/s")
        assert answer.status_code == 422 and "over 100 m" in answer.get_json()["title"]
