"""The store: what is acknowledged is there, nothing is overwritten, stale writes are refused."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
import threading
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import get_args

import pytest
from alembic import command
from sqlalchemy import inspect

from supplecast.curves import Arc2, Circle2, Curve2, Ellipse2, Line2, Spline2
from supplecast.document.model import Document
from supplecast.errors import ConflictError, StoreError
from supplecast.store import backup, doctor, shelf
from supplecast.store.library import Library, migrations
from supplecast.store.models import Base
from tests.conftest import TRAY, built, part, rectangle


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path)


def named(name: str) -> Document:
    return part(TRAY).model_copy(update={"name": name})


def test_undo_and_redo_reach_across_restarts(library: Library, tmp_path: Path) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    for name in ("two", "three"):
        head = library.head(card.id)
        library.commit(card.id, head.number, named(name), f"to {name}")
    library.close()
    again = Library(tmp_path)
    assert (again.head(card.id).document.name, again.head(card.id).undo) == ("three", 2)
    assert again.undo(card.id).document.name == "two"
    first = again.undo(card.id)
    assert (first.document.name, first.undo, first.redo) == ("one", 0, True)
    with pytest.raises(StoreError, match="nothing to undo"):
        again.undo(card.id)
    assert again.redo(card.id).document.name == "two"
    assert again.document(card.id).name == "two"


def test_an_edit_after_undo_keeps_the_other_branch_in_history(library: Library) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    library.commit(card.id, 1, named("two"), "to two")
    library.undo(card.id)
    revision = library.commit(card.id, 1, named("other"), "to other")
    assert (revision.number, revision.redo) == (3, False)
    with pytest.raises(StoreError, match="nothing to redo"):
        library.redo(card.id)
    assert [past.change for past in library.history(card.id)] == ["to other", "to two", "New"]
    assert [len(library.history(card.id, before=before)) for before in (10**40, 0, -(10**40))] == [3, 0, 0]
    assert library.revision(card.id, 2).name == "two"


def test_a_document_is_parsed_once_however_often_it_is_read(library: Library) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    edited = named("two")
    assert library.commit(card.id, 1, edited, "to two").document is edited
    again = library.head(card.id).document
    assert again == edited and again is library.revision(card.id, 2) is library.head(card.id).document


def test_a_stale_write_is_refused(library: Library) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    library.commit(card.id, 1, named("two"), "")
    with pytest.raises(ConflictError, match="changed elsewhere"):
        library.commit(card.id, 1, named("three"), "")
    assert library.head(card.id).document.name == "two"


def test_removed_projects_can_be_put_back(library: Library) -> None:
    project = library.create_project("P")
    library.add_document(project.id, named("one"))
    library.set_gone(project.id)
    assert library.projects() == []
    library.set_gone(project.id, False)
    assert [d.name for d in library.projects()[0].documents] == ["one"]


def test_ids_are_kept_while_free_and_never_shared(library: Library) -> None:
    project = library.create_project("P").id
    ids = [library.add_document(project, named("same")).id for _ in range(3)]
    assert ids[0] == "part" and len(set(ids)) == 3
    assert library.head(ids[2]).document.id == ids[2]


def test_what_is_not_there_is_told(library: Library) -> None:
    for call in (lambda: library.head("zz"), lambda: library.project("zz"), lambda: library.create_project("  ")):
        with pytest.raises(StoreError):
            call()


def test_migrations_make_what_the_models_say(library: Library, tmp_path: Path) -> None:
    tables = inspect(library.engine)
    for table in Base.metadata.sorted_tables:
        assert {c["name"] for c in tables.get_columns(table.name)} == {c.name for c in table.columns}
    with sqlite3.connect(tmp_path / "supplecast.db") as connection:
        assert connection.execute("pragma journal_mode").fetchone() == ("wal",)
        assert connection.execute("pragma integrity_check").fetchone() == ("ok",)


def test_migrations_go_down_and_up_again_without_losing_a_document(library: Library) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    library.commit(card.id, 1, named("two"), "to two")
    library.set_milestone(card.id, 1, "First shot")
    with library.engine.begin() as connection:
        command.downgrade(migrations(connection), "a1")
        assert "milestone" not in inspect(connection).get_table_names()
        command.upgrade(migrations(connection), "head")
    assert [past.change for past in library.history(card.id)] == ["to two", "New"]
    library.set_milestone(card.id, 1, "First shot")
    with library.engine.begin() as connection:
        command.downgrade(migrations(connection), "base")
        assert set(inspect(connection).get_table_names()) <= {"alembic_version"}


def test_milestones_name_revisions_and_old_ones_come_back_as_new(library: Library) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    library.commit(card.id, 1, named("two"), "to two")
    library.set_milestone(card.id, 1, "  First   shot ")
    restored = library.restore(card.id, 1)
    assert (restored.number, restored.document.name) == (3, "one")
    assert restored.change == "Restore revision 1, “First shot”"
    assert [(p.number, p.milestone, p.is_head) for p in library.history(card.id)] == [
        (3, "", True), (2, "", False), (1, "First shot", False),
    ]  # fmt: skip
    assert library.undo(card.id).document.name == "two"
    library.set_milestone(card.id, 1, "")
    assert all(not past.milestone for past in library.history(card.id))
    with pytest.raises(StoreError, match="no revision 99"):
        library.set_milestone(card.id, 99, "x")


# --- backup and doctor ---------------------------------------------------------------------------------------------


def test_a_backup_taken_in_the_middle_of_writing_is_whole(library: Library, tmp_path: Path) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    library.add_asset("a.step", b"content")
    stop = threading.Event()

    def write() -> None:
        while not stop.is_set():
            library.commit(card.id, library.head(card.id).number, named("more"), "more")

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for number in range(5):
            before = library.head(card.id).number
            assert backup.backup(tmp_path, tmp_path / f"{number}.zip") == 1
            backup.restore(tmp_path / f"{number}.zip", tmp_path / f"back{number}")
            copy = Library(tmp_path / f"back{number}")
            assert copy.head(card.id).number >= before
            assert doctor.examine(copy.directory) == []
            copy.close()
    finally:
        stop.set()
        writer.join()


def test_restoring_overwrites_nothing_and_takes_only_backups(tmp_path: Path) -> None:
    wrong = tmp_path / "wrong.zip"
    with zipfile.ZipFile(wrong, "w") as archive:
        archive.writestr("supplecast.db", b"x")
        archive.writestr("../outside", b"x")
    with pytest.raises(StoreError, match="not a backup"):
        backup.restore(wrong, tmp_path / "new")
    assert not (tmp_path.parent / "outside").exists() and not (tmp_path / "outside").exists()
    with pytest.raises(StoreError, match="not empty"):
        backup.restore(wrong, tmp_path)
    (tmp_path / "text.zip").write_text("no zip")
    with pytest.raises(StoreError, match="cannot be read"):
        backup.restore(tmp_path / "text.zip", tmp_path / "new")
    with pytest.raises(StoreError, match="no Supple Cast database"):
        backup.backup(tmp_path / "nothing", tmp_path / "b.zip")


def test_the_doctor_repairs_what_can_be_derived_and_names_the_rest(library: Library, tmp_path: Path) -> None:
    card = library.add_document(library.create_project("P").id, named("one"))
    library.commit(card.id, 1, named("two"), "to two")
    shelf.keep(built(named("two")), card.id, library.blobs)
    assert doctor.examine(tmp_path) == []
    digest = library.add_asset("a.step", b"content")
    (library.assets / digest).write_bytes(b"changed")
    shape = next(library.blobs.glob("*.shape"))
    shape.write_bytes(shape.read_bytes()[:-9])
    (library.blobs / "0.glb").write_bytes(b"html")
    half = library.assets / ".half.part"
    half.write_bytes(b"x")
    os.utime(half, (0, 0))
    with sqlite3.connect(tmp_path / "supplecast.db") as connection:
        connection.execute("UPDATE document SET head = 77")
        connection.execute("UPDATE revision SET content = '{' WHERE number = 1")
    connection.close()
    assert not any(f.repaired for f in doctor.examine(tmp_path, repair=False))
    found = doctor.examine(tmp_path)
    said = " ".join(finding.words for finding in found)
    for words in ("“a.step” has changed", "revision 1 cannot be read", "stood at revision 77", "damaged", "cut short"):
        assert words in said
    assert sorted(f.repaired for f in found) == [False] * 2 + [True] * 4
    assert library.head(card.id).number == 2
    assert [f.repaired for f in doctor.examine(tmp_path)] == [False, False]


def test_the_doctor_tells_a_ruined_database(tmp_path: Path) -> None:
    library = Library(tmp_path)
    library.add_document(library.create_project("P").id, named("one"))
    library.close()
    path = tmp_path / "supplecast.db"
    content = bytearray(path.read_bytes())
    content[3000 : len(content) - 500] = bytes(len(content) - 3500)
    path.write_bytes(bytes(content))
    found = doctor.examine(tmp_path)
    assert found and not found[0].repaired and "Put back a backup" in found[0].words


# --- killed in the middle ------------------------------------------------------------------------------------------


KILLS = 30  # `make chaos` has more of them


@pytest.mark.slow
def test_kills_in_the_middle_of_writing_lose_nothing(tmp_path: Path) -> None:
    library = Library(tmp_path)
    card = library.add_document(library.create_project("P").id, named("one"))
    library.close()
    command_line = [sys.executable, "-m", "tests.referee.kills", str(tmp_path), card.id, str(KILLS)]
    done = subprocess.run(command_line, capture_output=True, text=True, timeout=90)
    assert done.returncode == 0, done.stderr
    kills, acknowledged, total = map(int, done.stdout.split())
    assert kills == KILLS and total >= KILLS
    library = Library(tmp_path)
    history = {past.number for past in library.history(card.id, limit=100_000)}
    assert set(range(1, acknowledged + 1)) <= history
    assert library.head(card.id).number >= acknowledged
    assert doctor.examine(tmp_path) == []
    library.close()


CURVES = (
    Line2("L1", (0.0, 0.0), (3.0, 4.0)),
    Arc2("A1", (0.0, 0.0), (5.0, 0.0), (0.0, 5.0), True),
    Circle2("C1", (1.0, -2.0), 0.1),
    Circle2("C2", (1.0, -2.0), 0.1, ccw=False),
    Ellipse2("E1", (1.0, 2.0), (4.0, 3.0), 2.5, 0.7, -1.2),
    Spline2("S1", ((0.0, 0.0), (1.0, 2.0), (3.0, 1.0), (4.0, 0.1 + 0.2)), (0.0, 0.4, 1.0)),
)


def test_every_kind_of_curve_comes_back_from_the_shelf_as_it_was(tmp_path: Path) -> None:
    """Told apart by their members alone, to the last digit."""
    assert {type(one) for one in CURVES} == set(get_args(Curve2))
    shelf.keep(built(part([rectangle("s", "10", "20")])), "part", tmp_path)
    (trace,) = shelf.traces_of(tmp_path / shelf.memory_name("part")).values()
    kept = replace(trace, sketches=(replace(trace.sketches[0], curves=CURVES),))
    (again,) = shelf._traces.validate_json(shelf._traces.dump_json(kept)).sketches
    assert again.curves == CURVES


def test_assets_are_kept_by_content(library: Library) -> None:
    digest = library.add_asset("a.step", b"content")
    assert library.add_asset("b.step", b"content") == digest
    assert (library.assets / digest).read_bytes() == b"content"
