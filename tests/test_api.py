"""The API does what its description says, whatever is sent to it: no answer but a described one, never a crash."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)
from scripts import api

from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine
from tests.conftest import TRAY, part
from tests.referee.kills import NoEngine


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory) -> Any:
    library = Library(tmp_path_factory.mktemp("api"))
    library.add_document(library.create_project("P").id, part(TRAY, id="tray"))
    return schemathesis.openapi.from_wsgi("/api/openapi.json", create_app(library, NoEngine()))


@pytest.fixture(scope="module")
def signed(described: Any) -> dict[str, dict[str, str]]:
    client = described.app.test_client()
    page = client.get("/")
    token = re.search(rb'name="token" content="([^"]+)"', page.data)
    assert token
    name, _, value = page.headers["Set-Cookie"].split(";")[0].partition("=")
    return {"headers": {"X-Token": token.group(1).decode(), "Host": "localhost"}, "cookies": {name: value}}


ROUTES = [
    "GET /api/blobs/{name}", "GET /api/documents/{document_id}", "POST /api/documents/{document_id}/advice",
    "POST /api/documents/{document_id}/build", "POST /api/documents/{document_id}/edits",
    "POST /api/documents/{document_id}/beginning",
    "POST /api/documents/{document_id}/catch-up", "POST /api/documents/{document_id}/in-place",
    "POST /api/documents/{document_id}/pictures", "POST /api/documents/{document_id}/shots",
    "POST /api/documents/{document_id}/exports", "GET /api/documents/{document_id}/file",
    "GET /api/documents/{document_id}/history", "POST /api/documents/{document_id}/imports",
    "GET /api/documents/{document_id}/lesson",
    "GET /api/documents/{document_id}/look",
    "POST /api/documents/{document_id}/milestones",
    "POST /api/documents/{document_id}/measures", "POST /api/documents/{document_id}/units",
    "POST /api/documents/{document_id}/gauges", "POST /api/documents/{document_id}/pulls",
    "POST /api/documents/{document_id}/sections", "POST /api/documents/{document_id}/compare",
    "POST /api/documents/{document_id}/report", "POST /api/resins", "DELETE /api/resins/{name}",
    "POST /api/documents/{document_id}/picture",
    "POST /api/documents/{document_id}/places", "POST /api/documents/{document_id}/preview",
    "POST /api/documents/{document_id}/redo", "POST /api/documents/{document_id}/references",
    "POST /api/documents/{document_id}/restore", "POST /api/documents/{document_id}/undo",
    "GET /api/documents/{document_id}/sketches/{step}", "POST /api/documents/{document_id}/sketches/{step}/acts",
    "POST /api/documents/{document_id}/sketches/{step}/drag", "POST /api/documents/{document_id}/sketches/{step}/guess",
    "GET /api/documents/{document_id}/sketches/{step}/file", "POST /api/documents/{document_id}/sketches/{step}/outlines",
    "POST /api/documents/{document_id}/sketches/{step}/photos",
    "GET /api/documents/{document_id}/sketches/{step}/photos/{asset}",
    "POST /api/documents/{document_id}/sketches/{step}/take",
    "POST /api/documents/{document_id}/sketches/{step}/trace",
    "POST /api/documents/{document_id}/sketches/{step}/trims",
    "GET /api/jobs/{job_id}", "DELETE /api/jobs/{job_id}", "GET /api/openapi.json",
]  # fmt: skip


@pytest.mark.parametrize("route", ROUTES)
def test_every_route_answers_as_described(route: str, described: Any, signed: dict[str, dict[str, str]]) -> None:
    method, path = route.split(" ", 1)

    @settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck), database=None)
    @given(case=described[path][method].as_strategy(), there=st.booleans())
    def answers(case: Any, there: bool) -> None:
        if there and "document_id" in case.path_parameters:
            case.path_parameters["document_id"] = "tray"
            if "step" in case.path_parameters:
                case.path_parameters["step"] = "out"
        response = case.call(**signed)
        assert response.status_code < 500 and response.status_code != 403, response.text
        checks = [status_code_conformance, content_type_conformance, response_schema_conformance]
        case.validate_response(response, checks=checks)

    answers()


def test_requests_that_build_on_each_other_meet_no_fault_of_ours(tmp_path: Path) -> None:
    """A short form of `python -m scripts.api`, which sends 5,000."""
    engine = Engine(slots=1)
    try:
        rounds = api.run(tmp_path, engine, 160, 3)
    finally:
        engine.close()
    assert rounds.faults == [] and rounds.answers[422] > 15 and sum(kind > 0 for kind in rounds.accepted.values()) > 12


def test_every_route_is_described(tmp_path: Path) -> None:
    app = create_app(Library(tmp_path), NoEngine())
    description = app.test_client().get("/api/openapi.json").get_json()
    routes = {re.sub(r"<(\w+)>", r"{\1}", r.rule) for r in app.url_map.iter_rules() if r.endpoint.startswith("api.")}
    assert set(description["paths"]) == routes
    assert {f"{m.upper()} {p}" for p, operations in description["paths"].items() for m in operations} == set(ROUTES)
    for path, operations in description["paths"].items():
        for method, operation in operations.items():
            assert operation["summary"].endswith("."), (path, method)
            if method == "post":
                assert "requestBody" in operation, path
