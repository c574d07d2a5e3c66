"""The demo: all its documents build, every face of them has words, and its parts are read back from STEP as they were."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import pytest
from scripts import demo_looks

from supplecast.document.model import Document
from supplecast.document.project import Project
from supplecast.document.rebuild import Built, Memory, rebuild
from supplecast.kernel import measure, step_files
from supplecast.naming.tag import role, role_words
from supplecast.store import looks
from supplecast.store.library import Library
from supplecast.web import demo
from supplecast.wire.results import BuildResult, Gauges
from tests.bed.parts import BEDS
from tests.conftest import TRAY, built

pytestmark = pytest.mark.slow

Made = Sequence[tuple[Document, Built]]


@pytest.fixture(scope="module")
def made() -> Made:
    """Every document of the demo with what it builds, each part once."""
    documents = demo.documents()
    memories: dict[str, Memory] = {}
    project = Project({(d.id, None): d for d in documents}, Path(demo.__file__).parents[1] / "demo", memories)
    return [(d, rebuild(d, memories.setdefault(d.id, Memory()), outside=project)) for d in documents]


def test_the_demo_builds(made: Made) -> None:
    for document, result in made:
        assert result.ok, (document.name, [(o.step, o.message) for o in result.outcomes if o.status != "ok"])
        solids = [e.body.solid for e in result.state.bodies.values() if e.role != "surface"]
        assert solids and all(measure.volume(solid) > 0 for solid in solids)
    (back, shell), (_, tool), *_ = made
    assert len(TRAY) < len(back.steps)
    assert measure.box(shell.state.bodies["ext"].body.solid).size == pytest.approx((124, 72, 27), abs=1e-6)
    assert {entry.role for entry in tool.state.bodies.values()} >= {"cavity", "core", "feed", "shot"}


def test_what_is_first_shown_of_it_comes_with_the_program(made: Made, tmp_path: Path) -> None:
    """`make looks` writes it: for every document as a new library holds it, a picture, a build with its meshes, and gauges."""
    library = Library(tmp_path / "new")
    demo.seed(library)
    volumes = {d.name: {e.name: measure.volume(e.body.solid) for e in result.state.bodies.values()} for d, result in made}
    for document, task in demo_looks.tasks(tmp_path / "other"):
        here = replace(task, blobs=str(library.blobs))
        assert (library.blobs / looks.picture_name(here)).is_file(), document.name
        build, gauges = looks.kept(here, BuildResult), looks.kept(here, Gauges)
        assert build is not None and build.ok and gauges is not None and gauges.gauges, document.name
        for body in build.bodies:  # steel is weighed roughly on the screen
            assert body.volume == pytest.approx(volumes[document.name][body.name], rel=1e-3), (document.name, body.name)
    library.close()


def test_the_demo_is_worth_imitating(tmp_path: Path) -> None:
    """No gauge of it is at fault, and no step has a caution, but for the one that shows what a first try has."""
    library = Library(tmp_path / "new")
    demo.seed(library)
    for document, task in demo_looks.tasks(tmp_path / "other"):
        here = replace(task, blobs=str(library.blobs))
        build, gauges = looks.kept(here, BuildResult), looks.kept(here, Gauges)
        assert build is not None and gauges is not None
        faults = [gauge.id for gauge in gauges.gauges if gauge.state == "fault"]
        assert faults == (["draft", "sink"] if document.name.endswith("first try") else []), document.name
        assert [flag.words for step in build.steps for flag in step.flags] == [], document.name
    library.close()


def test_every_role_of_a_face_has_words(made: Made) -> None:
    results = [result for _, result in made] + [built(bed.document(bed.base)) for bed in BEDS]
    tags = {tag for result in results for entry in result.state.bodies.values() for row in entry.body.tags for tag in row}
    assert len(tags) > 500
    roles = {role(tag) for tag in tags} - {"face", "of"}
    assert len(roles) > 40 and [name for name in roles if role_words(name) == "face"] == []


def test_every_part_is_read_back_from_step_as_it_was(made: Made) -> None:
    """Lips run along curves aside of others, which the bindings' writer leaves out, and their faces with them."""
    for document, result in (one for one in made if one[0].kind == "part"):
        for entry in result.state.bodies.values():
            if entry.role != "surface":
                ((name, solid, _),) = step_files.read_step(step_files.write_step([(entry.name, entry.body.solid)]))
                assert name == entry.name and solid.face_count == entry.body.solid.face_count
                # The inner skin of the horn, a free form, is held by the kernel to 0.07 mm only.
                near = 5e-3 if document.name == "Horn" else 1e-6
                assert measure.volume(solid) == pytest.approx(measure.volume(entry.body.solid), rel=near)
