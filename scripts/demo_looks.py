"""Writes the demo's looks: pictures, meshes and what is first shown of its documents, shipped with the program.

python -m scripts.demo_looks
"""

from __future__ import annotations

import tempfile
import zipfile
from dataclasses import replace
from pathlib import Path

from supplecast import kernel
from supplecast.document.model import Document
from supplecast.document.step import load_steps
from supplecast.store import looks
from supplecast.store.library import Library
from supplecast.web import context, demo
from supplecast.wire import options
from supplecast.wire.results import BuildResult, Gauges
from supplecast.wire.task import Task
from supplecast.workers.verbs import building, files, judging

TARGET = Path(__file__).parents[1] / "src" / "supplecast" / "demo" / demo.LOOKS
_DATE = (2026, 1, 1, 0, 0, 0)  # the same file for the same content


def tasks(folder: Path) -> list[tuple[Document, Task]]:
    """The demo's documents as a new library holds them, each with the task that the program sets on it."""
    library = Library(folder)
    try:
        project = demo.add(library)
        heads = [library.head(card.id).document for card in library.project(project.id).documents]
        return [(head, context.task_in(library, head)) for head in heads]
    finally:
        library.close()


def wanted(task: Task) -> list[str]:
    """Names of the files that the first look at a document needs, but for its meshes."""
    return [looks.picture_name(task), looks.look_name(task, BuildResult), looks.look_name(task, Gauges)]


def main() -> int:
    load_steps()
    kernel.preload()
    with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(TARGET, "w", zipfile.ZIP_LZMA) as target:
        written: set[str] = set()
        for document, asked in tasks(Path(folder)):
            task = replace(asked, progress=f"{folder}/progress")
            result = building.build(task, options.Build())
            looks.keep(task, replace(judging.judge(task, options.Judge()), skins=()))  # maps are large, and soon made
            files.picture(task, options.Draw(looks.picture_name(task)))
            names = [*wanted(task), *looks.drawn_by(result)]
            for name in (name for name in dict.fromkeys(names) if name not in written):
                written.add(name)
                target.writestr(zipfile.ZipInfo(name, _DATE), (Path(task.blobs) / name).read_bytes(), zipfile.ZIP_LZMA)
            print(document.name, len(names), flush=True)
    print(f"{TARGET.stat().st_size / 1e6:.1f} MB")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
