"""What hostile hands send: documents, names, numbers and files made to hurt, and the words that answer them."""

from __future__ import annotations

import random
import re
from pathlib import Path
from typing import Any

import lib3mf
import numpy as np
import pygltflib
import pytest
from flask.testing import FlaskClient
from markupsafe import escape
from PIL import Image

from supplecast import budget
from supplecast.document.model import Document, read_document
from supplecast.document.project import Project
from supplecast.errors import DocumentError, KernelError, SuppleError
from supplecast.exchange.formats import Tolerance
from supplecast.exchange.handoff import write
from supplecast.exchange.outlines import read_outline
from supplecast.exchange.photos import read_photo
from supplecast.kernel import step_files
from supplecast.store.library import Library
from supplecast.text import cleaned
from supplecast.web.api import sketching
from supplecast.web.app import create_app
from tests.conftest import TRAY, bodies, built, drawn, extrude, part, rectangle
from tests.referee.desk import Desk
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


@pytest.mark.parametrize(
    ("path", "body", "words"),
    [
        ("/edits", b'{"base":1,"edit":' + b"[" * 1000 + b"]" * 1000 + b"}", "inside each other"),
        ("/edits", b'{"base":1,"edit":{"op":"document","name":"a\\ud800"}}', "characters that are none"),
        ("/edits", b'{"base":1,"edit":{"op":"document","unit":["mm"]}}', "unit"),
        ("/edits", b'{"base":1,"edit":{"op":["set"]}}', "op"),
        ("/exports", b'{"format":"stl","tolerance":' + b"9" * 400 + b"}", "number of 400 digits"),
        ("/exports", b'{"format":["stl"]}', "no such format"),
        ("/exports", b'{"format":"stl","bodies":5}', "bodies"),
        ("/sketches/out/trims", b'{"entity":"L1","at":[' + b"9" * 30 + b",1]}", "at.0"),
        ("/sketches/out/trims", b'{"entity":"L1","at":[1e999,1]}', "not finite"),
        ("/sketches/out/trims", b'{"entity":"L1","at":[NaN,1]}', "not finite"),
        ("/units", b'{"unit":["mm"]}', "unit"),
        ("/build", b'{"picks":[1]}', "picks.0"),
        ("/build", b'{"picks":[{"face":1}]}', "no pick"),
        ("/build", b'{"picks":[{"rule":"uprights"}]}', "no pick"),
        ("/build", b'{"picks":[{"edge":["a","b"],"share":5}]}', "share"),
        ("/build", b"\xff\xfe", "not sound JSON"),
        ("/build", b"[]", "no JSON object"),
    ],
)
def test_no_request_reaches_the_core_unread(library: Library, client: FlaskClient, path: str, body: bytes, words: str) -> None:
    document, desk = _kept(library, part(TRAY, id="tray")), Desk(client, library)
    headers = {"X-Token": desk.token, "Content-Type": "application/json"}
    answer = client.post(f"/api/documents/{document}{path}", data=body, headers=headers)
    assert answer.status_code == 422 and words in answer.get_json()["title"]


@pytest.mark.parametrize("token", ["tök€n", "\x80\xff", ""])
def test_tokens_of_any_characters_are_refused_as_tokens(client: FlaskClient, token: str) -> None:
    answers = [
        client.post("/api/documents/x/undo", json={}, headers={"X-Token": token.encode("utf-8").decode("latin-1")}),
        client.post("/projects", data={"token": token, "name": "x"}),
    ]
    assert [answer.status_code for answer in answers] == [403, 403] and answers[0].get_json()["stale"]


HOSTILE_NAMES = ["a\x00b\x1b[31m", "\ufffe\uffff\U0001ffff", "x\u202egnp.exe", "line\nbreak\ttab\u2028", "<b>&'\"]]>", "‏שלום"]


@pytest.mark.parametrize("name", HOSTILE_NAMES)
def test_names_are_clean_in_every_file_and_on_the_page(name: str, library: Library, client: FlaskClient) -> None:
    data = part(TRAY).to_dict() | {"name": f"N{name}", "looks": {"ext": {"name": f"B{name}"}}}
    kept = library.head(_kept(library, read_document(data))).document
    assert kept.name == cleaned(f"N{name}").strip() and not re.search("[\x00-\x1f\u202e\ufffe\uffff]", kept.name)
    assert f"<bdi>{escape(kept.name)}</bdi>" in client.get("/").get_data(as_text=True)
    (entry,) = bodies(kept).values()
    raw = entry.called(f"B{name}")  # as if it had come in by another way
    shown = cleaned(f"B{name}")
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.ReadFromBuffer(write([raw], "3mf", Tolerance(0.5)))
    items = model.GetMeshObjects()
    assert items.MoveNext() and items.GetCurrentMeshObject().GetName() == shown
    assert [filed.name for filed in step_files.read_step(write([raw], "step"))] == [shown.strip()]
    scene = pygltflib.GLTF2().load_from_bytes(write([raw], "glb", Tolerance(0.5)))
    assert scene.nodes[1].name == shown  # below the one that turns it upright


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"\0" * 80 + (1_200_000).to_bytes(4, "little") + b"\0" * (50 * 1_200_000), "1200000 triangles"),
        (b"solid x\n" + b"facet\nendfacet\n" * 600_000, "600000 triangles"),
        (b"solid " + b"vertex " * 2_000_000, "is broken"),
        (b"ISO-10303-21;" + b"#1=A();" * 700_000, "700000 entries"),
        (b"ISO-10303-21;" + b"#1=ADVANCED_FACE();" * 13_000, "13000 faces"),
    ],
)
def test_files_of_bodies_are_counted_before_they_are_read(content: bytes, words: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(np, "unique", None)
    monkeypatch.setattr(step_files, "STEPCAFControl_Reader", None)
    with pytest.raises(KernelError, match=words):
        step_files.read_bodies(content)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b'<svg viewBox="e e e e" width="10mm"><path d="M0 0L1 1"/></svg>', "broken"),
        (b'<svg width="1.2.3mm" viewBox="0 0 1 1"><path d="M0 0L1 1"/></svg>', "broken"),
        ('<?xml version="1.0" encoding="UTF-16"?><!DOCTYPE s [<!ENTITY a "aa">]><svg>&a;</svg>'.encode("utf-16"), "entities"),
        (b'<!DOCTYPE svg [<!ENTITY a "x">]><svg><path d="M0 0L1 1"/></svg>', "entities"),
        (b"<svg>" + b'<path d="M0 0L1 1"/>' * 100_000 + b"</svg>", "far more than a sketch takes"),
    ],
)
def test_outlines_made_to_hurt_are_refused_in_words(content: bytes, words: str) -> None:
    with pytest.raises(SuppleError, match=words):
        read_outline(content)


def test_an_outline_in_utf_16_is_read_all_the_same() -> None:
    drawing = '<svg xmlns="http://www.w3.org/2000/svg" width="10mm" viewBox="0 0 10 10"><path d="M0 0L3 4"/></svg>'
    rows, _ = read_outline(f'<?xml version="1.0" encoding="UTF-16"?>{drawing}'.encode("utf-16"))
    assert [row["places"] for row in rows] == [[(0.0, 0.0), (3.0, -4.0)]]


def test_a_photo_is_not_searched_through_for_its_size(monkeypatch: pytest.MonkeyPatch) -> None:
    given: list[int] = []
    opened = Image.open
    monkeypatch.setattr(Image, "open", lambda stream, **more: given.append(len(stream.getvalue())) or opened(stream, **more))
    with pytest.raises(SuppleError, match="neither a PNG nor a JPEG"):
        read_photo(b"\xff\xd8" + b"\xff" * 20_000_000)
    assert given == [2**20]


def test_what_a_document_says_of_itself_is_repeated_only_in_part() -> None:
    for wrong in ({"version": "9" * 1_000_000}, {"version": 1, "steps": [{"type": "x" * 100_000}]}):
        with pytest.raises(DocumentError) as fault:
            read_document({"format": "supplecast", "steps": [], **wrong})
        assert len(str(fault.value)) < 3000


def test_a_figure_beyond_the_budget_is_told_by_its_true_cause() -> None:
    budget.begin(8)
    try:
        with pytest.raises(DocumentError, match="more work than the page may wait for"):
            part([rectangle("r", "71.25 mm", "33.5 mm", radius="4 mm")])
    finally:
        budget.end()


def _linking(name: str, *others: str, steps: tuple[Any, ...] = ()) -> Document:
    links = [{"id": f"k{number}", "type": "link", "part": {"document": other}} for number, other in enumerate(others)]
    return part([*links, *steps], id=name, name=name.upper())


def test_chains_and_webs_of_links_end_in_words() -> None:
    first = _linking("z", steps=(rectangle("s", "3", "2"), extrude("e", "s", "1")))
    chain = [_linking(f"d{k}", f"d{k + 1}" if k < 199 else "z") for k in range(200)]
    broken = built(*chain, first).outcomes[0]
    assert broken.message == "The linked document does not build: More than 25 documents link one another in a row."
    web = [_linking(f"w{k}", *[f"w{k + 1}" if k < 19 else "z"] * 9) for k in range(20)]  # 9 to the 20th ways through it
    assert built(*web, first).ok
    project = Project({(d.id, None): d for d in (_linking("a", "b"), _linking("b", "c"), _linking("c", "a"))})
    assert "“A” → “B” → “C” → “A”" in project.build("a").outcomes[0].message
