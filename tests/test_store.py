"""The store: what is acknowledged is there, nothing is overwritten, stale writes are refused."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from sqlalchemy import inspect

from supplecast.document.model import Document
from supplecast.errors import ConflictError, StoreError
from supplecast.store.library import Library
from supplecast.store.models import Base
from tests.conftest import TRAY, part


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
    told = library.commit(card.id, 1, named("other"), "to other")
    assert (told.number, told.redo) == (3, False)
    with pytest.raises(StoreError, match="nothing to redo"):
        library.redo(card.id)
    assert [change for _, change, _ in library.history(card.id)] == ["to other", "to two", "New"]
    assert library.revision(card.id, 2).name == "two"


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


def test_assets_are_kept_by_content(library: Library) -> None:
    digest = library.add_asset("a.step", b"content")
    assert library.add_asset("b.step", b"content") == digest
    assert (library.assets / digest).read_bytes() == b"content"
