"""A data directory written by the program before its house was rebuilt: everything in it still opens, builds and answers.

`referee/old-data.zip` holds two documents, the tool linked to the first revision of the part, an undone edit, a milestone, a
grade of one's own, an imported file, and bodies kept in the form of that time.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from supplecast.store import doctor
from supplecast.store.library import Library
from supplecast.web.app import create_app
from supplecast.workers.engine import Engine
from tests.referee.desk import Desk

# mm³, as that program built them: the tray at its revision 2 and the tool's halves about revision 1.
VOLUMES = {"old-tray": {"ext": 50170.62327831575},
           "old-tool": {"lnk": 38039.8558548377, "spl.cavity": 823769.7902215692, "spl.core": 741506.9681101562,
                        "fee": 518.7328350459074, "sho": 38558.58868988365}}  # fmt: skip
OLD = Path(__file__).parent / "referee" / "old-data.zip"


@pytest.fixture(scope="module")
def old(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Desk]:
    directory = tmp_path_factory.mktemp("old")
    with zipfile.ZipFile(OLD) as packed:
        packed.extractall(directory)
    engine = Engine()
    library = Library(directory)
    app = create_app(library, engine)
    app.config["TESTING"] = True
    yield Desk(app.test_client(), library)
    engine.close()


def test_history_is_where_it_was(old: Desk) -> None:
    (project,) = old.library.projects()
    assert project.name == "Before" and [card.id for card in project.documents] == ["old-tray", "old-tool"]
    head = old.library.head("old-tray")
    assert (head.number, head.undo, head.redo) == (2, 1, True)
    assert {past.number: past.milestone for past in old.library.history("old-tray")} == {1: "", 2: "first try", 3: ""}
    assert [grade.name for grade in old.library.grades()] == ["ABS before"]


def test_only_what_can_be_made_again_has_grown_old(old: Desk) -> None:
    found = doctor.examine(old.library.directory, repair=False)
    assert found and all("made again" in finding.words for finding in found)


@pytest.mark.parametrize(
    "path",
    ["", "?sketch=gd", "?at=ext", "/history", "/compare?first=1&second=2", "/handoff", "/sheet"],
)
def test_pages_kept_as_bookmarks_open(old: Desk, path: str) -> None:
    assert old.client.get(f"/documents/old-tray{path}").status_code == 200


def test_both_documents_build_and_the_link_holds_its_revision(old: Desk) -> None:
    for document, volumes in VOLUMES.items():
        job = old.done(old.post(f"/api/documents/{document}/build").get_json()["job"])
        assert job["state"] == "done" and job["result"]["ok"], job
        assert {body["id"]: body["volume"] for body in job["result"]["bodies"]} == pytest.approx(volumes, rel=1e-9)


def test_an_edit_undo_and_redo_go_on_from_there(old: Desk) -> None:
    redone = old.post("/api/documents/old-tray/redo").get_json()
    assert (redone["revision"], redone["redo"]) == (3, False)
    edited = old.post(
        "/api/documents/old-tray/edits", base=3, edit={"op": "set", "step": "shl", "field": "wall", "value": "2.6 mm"}
    ).get_json()
    assert edited["revision"] == 4 and old.done(edited["job"])["result"]["ok"]
    assert old.post("/api/documents/old-tray/undo").get_json()["revision"] == 3
