"""Damaged, foreign, cut and missing data: every end is a sentence, and nothing that was whole is touched."""

from __future__ import annotations

import hashlib
import os
import sqlite3
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from supplecast import cli
from supplecast.errors import StoreError
from supplecast.store import backup, doctor
from supplecast.store.library import Library
from tests.conftest import TRAY, part

PHOTO = "f" * 64


@pytest.fixture
def data(tmp_path: Path) -> Path:
    """A data directory with a document, one imported file in use, and a secret, as after a first start."""
    folder = tmp_path / "data"
    library = Library(folder)
    digest = library.add_asset("body.step", b"content")
    steps = [{"id": "m1", "type": "import", "file": "body.step", "asset": digest}, *TRAY]
    library.add_document(library.create_project("P").id, part(steps, id="tray"))
    library.close()
    (folder / "secret").write_text("x" * 64)
    return folder


def _cut(folder: Path) -> None:
    path = folder / "supplecast.db"
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])


def _holed(folder: Path) -> None:
    path = folder / "supplecast.db"
    content = bytearray(path.read_bytes())
    content[4096:12288] = bytes(8192)
    path.write_bytes(bytes(content))


def _text(folder: Path) -> None:
    (folder / "supplecast.db").write_text("no database at all\n" * 999)


def _emptied(folder: Path) -> None:
    (folder / "supplecast.db").write_bytes(b"")


def _gone(folder: Path) -> None:
    (folder / "supplecast.db").unlink()


def _foreign(folder: Path) -> None:
    _gone(folder)
    _told(folder, "CREATE TABLE songs (id INTEGER)")


def _newer(folder: Path) -> None:
    _told(folder, "UPDATE alembic_version SET version_num = 'z9'")


def _unversioned(folder: Path) -> None:
    _told(folder, "DELETE FROM alembic_version")


def _told(folder: Path, words: str) -> None:
    connection = sqlite3.connect(folder / "supplecast.db")
    connection.execute(words)
    connection.commit()
    connection.close()


DAMAGES = [(_cut, "damaged"), (_holed, "damaged"), (_text, "damaged"), (_emptied, "is empty"), (_gone, "is gone"),
           (_foreign, "no database of Supple Cast"), (_newer, "newer version"), (_unversioned, "newer version")]  # fmt: skip


@pytest.mark.parametrize(("damage", "words"), DAMAGES)
def test_no_start_on_a_damaged_database(
    damage: Callable[[Path], None], words: str, data: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    damage(data)
    assert cli.main(["serve", "--data", str(data)]) == cli.UNUSABLE
    said = capsys.readouterr().err
    assert said.startswith("supplecast: ") and words in said and said.count("\n") == 1


def test_no_start_where_nothing_can_be_written(data: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "file").write_text("x")
    for place in (tmp_path / "file", tmp_path / "file" / "below"):
        assert cli.main(["serve", "--data", str(place)]) == cli.UNUSABLE
        assert "cannot be used" in capsys.readouterr().err
    assert cli.main(["serve", "--data", str(data), "--host", "example.org"]) == cli.UNUSABLE


@pytest.mark.parametrize("damage", [_cut, _holed, _text, _emptied])
def test_a_damaged_database_never_takes_the_place_of_a_good_backup(
    damage: Callable[[Path], None], data: Path, tmp_path: Path
) -> None:
    kept = tmp_path / "kept.zip"
    backup.backup(data, kept)
    before = kept.read_bytes()
    damage(data)
    with pytest.raises(StoreError, match="nothing was backed up"):
        backup.backup(data, kept)
    assert kept.read_bytes() == before and sorted(p.name for p in tmp_path.iterdir()) == ["data", "kept.zip"]
    backup.restore(kept, tmp_path / "back")
    assert doctor.examine(tmp_path / "back") == [] and Library(tmp_path / "back").head("tray").number == 1


def test_an_imported_file_that_changed_is_not_backed_up_as_if_it_had_not(data: Path, tmp_path: Path) -> None:
    next((data / "assets").iterdir()).write_bytes(b"changed")
    with pytest.raises(StoreError, match="missing or has changed"):
        backup.backup(data, tmp_path / "b.zip")


def _packed(target: Path, entries: list[tuple[str, bytes]]) -> None:
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in entries:
            archive.writestr(name, content)


def _entries(data: Path) -> list[tuple[str, bytes]]:
    asset = next((data / "assets").iterdir())
    return [("supplecast.db", (data / "supplecast.db").read_bytes()), (f"assets/{asset.name}", asset.read_bytes())]


@pytest.mark.filterwarnings("ignore:Duplicate name")
@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda rows: [("supplecast.db", b"no database"), *rows[1:]], "of no use"),
        (lambda rows: [(rows[0][0], rows[0][1][: len(rows[0][1]) // 2]), *rows[1:]], "of no use"),
        (lambda rows: [rows[0], (rows[1][0], b"other")], "missing or have changed"),
        (lambda rows: rows[:1], "missing or have changed"),
        (lambda rows: [*rows, rows[1]], "not a backup"),
        (lambda rows: [*rows, ("blobs/x", b"")], "not a backup"),
        (lambda rows: [*rows, (f"assets/{PHOTO}", bytes(50_000_000))], "far more than it holds"),
    ],
)
def test_a_spoilt_backup_is_refused_and_leaves_nothing(
    spoil: Callable[[list[tuple[str, bytes]]], list[tuple[str, bytes]]], words: str, data: Path, tmp_path: Path
) -> None:
    archive = tmp_path / "b.zip"
    _packed(archive, spoil(_entries(data)))
    with pytest.raises(StoreError, match=words):
        backup.restore(archive, tmp_path / "back")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["b.zip", "data"]


def test_every_bit_that_flips_in_a_backup_is_noticed_or_harmless(data: Path, tmp_path: Path) -> None:
    archive = tmp_path / "b.zip"
    backup.backup(data, archive)
    whole = archive.read_bytes()
    refused = 0
    for number in range(0, len(whole), len(whole) // 60):
        spoilt = bytearray(whole)
        spoilt[number] ^= 0x40
        (tmp_path / "s.zip").write_bytes(bytes(spoilt[: len(spoilt) - number % 2]))
        target = tmp_path / f"back{number}"
        try:
            backup.restore(tmp_path / "s.zip", target)
        except StoreError:
            refused += 1
            assert not target.exists()
        else:
            assert doctor.examine(target) == []
    assert refused > 40


def test_the_doctor_goes_on_where_folders_are_missing_and_tells_all_it_finds(data: Path) -> None:
    (data / "blobs").rmdir()
    next((data / "assets").iterdir()).unlink()
    said = " ".join(finding.words for finding in doctor.examine(data))
    assert "“body.step” is missing" in said and "folder of stored results is missing" in said
    assert [finding.repaired for finding in doctor.examine(data)] == [False]


def test_files_that_no_document_uses_go_after_a_day_and_those_in_use_stay(data: Path) -> None:
    library = Library(data)
    spare = library.add_asset("photo.png", b"never used")
    assert doctor.examine(data) == []  # it may just have been brought in
    for path in (data / "assets").iterdir():
        os.utime(path, (0, 0))
    (finding,) = doctor.examine(data)
    assert finding.repaired and "used by no document" in finding.words
    assert [path.name for path in (data / "assets").iterdir()] == [hashlib.sha256(b"content").hexdigest()] != [spare]
    assert doctor.examine(data) == []


def test_a_start_clears_away_what_was_cut_short_and_what_was_taken_away(data: Path) -> None:
    old = [data / "blobs" / f"{'a' * 24}.step", data / "blobs" / ".b.glb.1234"]
    new = [data / "blobs" / f"{'c' * 24}.step", data / "blobs" / f"{'d' * 32}.glb"]
    for path in (*old, *new):
        path.write_bytes(b"x")
    for path in (*old, new[1]):
        os.utime(path, (0, 0))
    doctor.tidy(data)
    assert sorted((data / "blobs").iterdir()) == sorted(new)
