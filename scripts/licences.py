"""Writes docs/licences.md: the licence of every Python package that the program needs, as pip-licenses reads it.

python -m scripts.licences
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parent.parent
TARGET = ROOT / "docs" / "licences.md"
HEAD = """# Licences of the Python packages

Written by `make licences` from what is installed; the vendored scripts and fonts are in [LICENCES.md](../LICENCES.md).
Packages are fetched, not vendored: each carries its own licence text.

| package | release | licence |
|---|---|---|
"""


def needed() -> set[str]:
    """Names in the lock file of the program itself, as package indexes write them."""
    lock = (ROOT / "requirements.lock").read_text()
    return {name.lower() for name in re.findall(r"^([A-Za-z0-9._-]+)==", lock, re.MULTILINE)}


def rows() -> list[str]:
    """One row of the table a package."""
    asked = [sys.executable, "-m", "piplicenses", "--format=json", "--from=mixed", "--with-system"]
    listed = json.loads(subprocess.run(asked, capture_output=True, text=True, check=True).stdout)
    wanted = needed()
    found = sorted((p for p in listed if re.sub(r"[._]", "-", p["Name"]).lower() in wanted), key=lambda p: p["Name"].lower())
    return [f"| {p['Name']} | {p['Version']} | {' '.join(p['License'].split())[:80].replace('|', '/')} |" for p in found]


if __name__ == "__main__":
    TARGET.write_text(HEAD + "\n".join(rows()) + "\n")
    print(f"{TARGET.relative_to(ROOT)} written")
