"""Many sessions on one machine: how long do a page and the acknowledgement of an edit take, and does memory stay flat?

    python -m scripts.load [SESSIONS] [MINUTES]

Starts the program with a part for each session, lets locust play them (scripts/sessions.py), and looks at the memory of all
its processes meanwhile. Prints both tables. All of it on the loopback address.
"""

from __future__ import annotations

import csv
import os
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tests.conftest import TRAY, part
from tests.referee.processes import descendants

from supplecast.store.library import Library

LOCUST = Path(__file__).parents[1] / ".venv-load" / "bin" / "locust"
SESSIONS = Path(__file__).with_name("sessions.py")
_LOOK = 10.0


def main() -> int:
    sessions, minutes = (float(word) for word in (*sys.argv[1:], *("30", "30")[len(sys.argv) - 1 :]))
    with tempfile.TemporaryDirectory() as folder:
        library = Library(Path(folder, "data"))
        project = library.create_project("Load").id
        names = [library.add_document(project, part(TRAY, id=f"tray{k}")).id for k in range(int(sessions))]
        library.close()
        command = [sys.executable, "-m", "supplecast.cli", "serve", "--data", f"{folder}/data", "--port", "8795", "--no-key"]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert server.stdout
        address = re.search(r"http://\S+", server.stdout.readline())
        assert address
        play = [str(LOCUST), "-f", str(SESSIONS), "--headless", "--only-summary", "--csv", f"{folder}/load"]
        play += ["-u", str(int(sessions)), "-r", "3", "-t", f"{int(minutes * 60)}s", "--host", address[0].rstrip("/")]
        locust = subprocess.Popen(
            play, env={**os.environ, "LOAD_DOCUMENTS": ",".join(names)}, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        try:
            memory = _watched(server.pid, locust)
        finally:
            server.terminate()
            server.wait(30)
        return _told(Path(folder, "load_stats.csv"), memory)


def _watched(pid: int, locust: subprocess.Popen[bytes]) -> list[tuple[float, int, int]]:
    """Minutes, and the megabytes that the server and all its workers hold, until locust has ended."""
    began, rows = time.monotonic(), []
    while locust.poll() is None:
        own, young = _megabytes(pid), descendants(pid)
        rows.append(((time.monotonic() - began) / 60, own, sum(map(_megabytes, young))))
        time.sleep(_LOOK)
    return rows


def _megabytes(pid: int) -> int:
    """What a process holds for itself alone (Pss shares what several hold)."""
    try:
        text = Path(f"/proc/{pid}/smaps_rollup").read_text()
    except OSError:
        return 0
    return sum(int(kilobytes) for kilobytes in re.findall(r"^Pss:\s+(\d+)", text, re.MULTILINE)) // 1024


def _told(stats: Path, memory: list[tuple[float, int, int]]) -> int:
    print(f"{'':26}{'asked':>8}{'failed':>8}{'median':>8}{'95 %':>8}{'99 %':>8}   ms")
    failed = 0
    with stats.open() as stream:
        for row in csv.DictReader(stream):
            if row["Name"] == "Aggregated":
                continue
            failed += int(row["Failure Count"])
            cells = [row[name] for name in ("Request Count", "Failure Count", "50%", "95%", "99%")]
            print(f"{row['Name']:26}" + "".join(f"{cell:>8}" for cell in cells))
    print("\nminutes  server MB  workers MB")
    for minutes, own, young in memory[:: max(1, len(memory) // 12)]:
        print(f"{minutes:7.1f}{own:11d}{young:12d}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
