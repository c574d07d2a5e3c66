"""Writes the handbook's pictures: the demo's documents before and after the first step of each kind that shows there, shipped
with the program.

python -m scripts.handbook_pictures
"""

from __future__ import annotations

import tempfile
import zipfile
from dataclasses import replace
from io import BytesIO
from pathlib import Path

import numpy as np
from PIL import Image

from scripts.demo_looks import tasks
from supplecast import kernel
from supplecast.document.step import load_steps
from supplecast.handbook import pictures
from supplecast.wire import options
from supplecast.workers.verbs import files

_SEEN, _LEAST = 12.0, 0.002  # grey levels that are told apart, and the share of a picture that must differ
_DATE = (2026, 1, 1, 0, 0, 0)  # the same file for the same content
_UNSEEN = frozenset({"sketch", "plane", "axis", "point", "inspect", "opening check", "costing", "mix"})  # nothing is to be seen


def tells(before: bytes | None, after: bytes | None) -> bool:
    """Whether the second of two pictures shows something that the first does not: some parts of a tool are hidden in it."""
    if before is None or after is None:
        return after is not None
    first, second = (np.asarray(Image.open(BytesIO(content)).convert("L"), dtype=float) for content in (before, after))
    return first.shape != second.shape or float((np.abs(first - second) > _SEEN).mean()) > _LEAST


def main() -> int:
    load_steps()
    kernel.preload()
    with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(pictures.SHIPPED, "w", zipfile.ZIP_DEFLATED) as target:
        done: set[str] = set()
        for document, asked in tasks(Path(folder)):
            task = replace(asked, progress=f"{folder}/progress")
            for before, step in zip([None, *document.steps], document.steps, strict=False):
                if step.type in done or step.type in _UNSEEN or step.skip:
                    continue
                drawn = {
                    when: files.picture(replace(task, upto=upto), options.Draw(f"{step.id}-{when}.png")).blob
                    for when, upto in (("before", before.id if before else None), ("after", step.id))
                    if upto is not None
                }
                pair = {when: (Path(task.blobs) / blob).read_bytes() for when, blob in drawn.items() if blob}
                if not tells(pair.get("before"), pair.get("after")):
                    continue
                done.add(step.type)
                for when, content in pair.items():
                    name = f"{step.type.replace(' ', '-')}-{when}.png"
                    target.writestr(zipfile.ZipInfo(name, _DATE), content, zipfile.ZIP_DEFLATED)
            print(document.name, len(done), flush=True)
    print(f"{pictures.SHIPPED.stat().st_size / 1e6:.1f} MB")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
