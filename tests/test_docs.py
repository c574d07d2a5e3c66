"""The pages: what is generated is current, what is shown as code runs, what is linked is there."""

from __future__ import annotations

import importlib.util
import io
import json
import math
import re
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import ModuleType

import pytest
import trimesh
from scripts import docs

from supplecast import hints
from supplecast.document.edits import apply, read_edit
from supplecast.document.model import read_document, read_step, schema
from supplecast.document.step import Step
from supplecast.exchange import handoff
from supplecast.kernel import measure
from supplecast.molding import gauges
from supplecast.molding.judge import Pulled, Skin
from supplecast.sketch import tools
from supplecast.tooling.resins import RESINS
from supplecast.web import sheet
from tests.conftest import bodies, built, extrude, part, rectangle
from tests.referee.sketches import areas, drawn, pick

PAGES = docs.DOCS


def test_generated_pages_are_current() -> None:
    for path, text in docs.pages().items():
        assert path.is_file() and path.read_text(encoding="utf-8") == text, f"{path.name}: run make docs"


@pytest.mark.parametrize("kind", sorted(Step.registry.values(), key=lambda k: k.__name__), ids=lambda k: k.__name__)
def test_every_example_reads_and_every_step_says_what_it_is_for(kind: type[Step]) -> None:
    assert isinstance(read_step(docs.example(kind)), kind)
    assert kind.word and kind.purpose and kind.follows in {"", *Step.registry}


def test_links_of_the_pages_lead_somewhere() -> None:
    for page in (*PAGES.rglob("*.md"), PAGES.parent / "README.md"):
        for target in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text(encoding="utf-8")):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


@contextmanager
def run_from(page: str, name: str, block: int = 0) -> Iterator[ModuleType]:
    """A module made from a block of code on a page, as if it had been saved where the page says."""
    code = re.findall(r"```python\n(.*?)```", (PAGES / page).read_text(encoding="utf-8"), re.DOTALL)[block]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"{name.rsplit('.', 1)[1]}.py"
        path.write_text(code, encoding="utf-8")
        spec = importlib.util.spec_from_file_location(name, path)
        assert spec and spec.loader
        sys.modules[name] = module = importlib.util.module_from_spec(spec)
        try:
            spec.loader.exec_module(module)
            yield module
        finally:
            del sys.modules[name]


@pytest.fixture
def bar() -> Iterator[type[Step]]:
    """The steps of the worked example."""
    with run_from("add-a-step.md", "supplecast.steps.part.bar"), run_from("add-a-step.md", "supplecast.steps.part.peg", 1):
        yield Step.registry["bar"]
    del Step.registry["bar"], Step.registry["peg"]


def test_the_worked_example_is_a_step_like_any_other(bar: type[Step]) -> None:
    page = (PAGES / "add-a-step.md").read_text(encoding="utf-8")
    data = json.loads(re.search(r"```json\n(.*?)```", page, re.DOTALL).group(1))  # type: ignore[union-attr]
    document = read_document(data)
    result = built(document)
    assert result.ok, result.outcomes
    volume = measure.volume(result.state.bodies["bar1"].body.solid)
    # A bar less the ring its rounded rim takes off: Pappus with the area r²(1 − π/4) and its centroid.
    area, r = 4 * (1 - math.pi / 4), 2.0
    centroid = 6 - r * (10 - 3 * math.pi) / (12 - 3 * math.pi)
    assert volume == pytest.approx(36 * math.pi * 40 - 2 * math.pi * centroid * area, rel=1e-6)
    assert f"{volume:.1f} mm³" in page
    assert "Bar" in schema()["$defs"] and "bar" in [kind.type for kind in sheet.addable(document)]
    line = sheet.lines(document, sheet.Around())[0]
    assert [token.path for token in line.tokens if token.kind == "number"][:2] == ["diameter", "length"]
    assert "tags" not in data and result.state.bodies["bar1"].body.faces_by_tag.keys() >= {"bar1.side", "bar1.start"}
    assert docs.pages()[PAGES / "steps" / "bar.md"].startswith("<!--")


def test_a_step_of_the_page_joins_what_is_there(bar: type[Step]) -> None:
    """Its pegs are named apart, stand on the bar, and can be repeated by a ring."""
    steps = [{"id": "bar1", "type": "bar"}]
    document = part(steps)
    document, _ = apply(document, read_edit({"op": "add", "type": "peg", "after": "bar1", "values": {}}))
    peg = document.steps[-1]
    assert peg.held("on.face") == "bar1.end", "a new peg stands on the bar without being told"
    result = built(document)
    assert result.ok, result.outcomes
    body = result.state.bodies["bar1"].body
    assert measure.volume(body.solid) == pytest.approx(math.pi * (25 * 20 + 2 * 1.5**2 * 5), rel=1e-9)
    assert {f"{peg.id}.end[left]", f"{peg.id}.end[right]"} <= set(body.faces_by_tag)
    ring = {"id": "r", "type": "ring", "of": "steps", "steps": [peg.id], "count": "4"}
    copied = built(part([*steps, peg.model_dump(mode="json"), ring]))
    assert copied.ok, copied.outcomes
    assert measure.volume(copied.state.bodies["bar1"].body.solid) == pytest.approx(math.pi * (500 + 4 * 11.25), rel=1e-9)


def test_the_gauge_of_the_page_is_on_the_strip(monkeypatch: pytest.MonkeyPatch) -> None:
    box = bodies(part([rectangle("s", "10", "20"), extrude("e", "s", "30")]))["e"]
    pulled = Pulled(Skin(box.body.solid), (0.0, 0.0, 1.0))
    with run_from("add-a-gauge.md", "supplecast.molding.gauges.skin") as page:
        monkeypatch.setattr(gauges, "_STRIP", (*gauges._STRIP, page.skin))
        *_, gauge = gauges.gauges([gauges.Judged("e", "Box", pulled)], gauges.Asked(RESINS["ABS"], (0.0, 0.0, 1.0)))
    # 2 (200 + 300 + 600) mm² on 6000 mm³.
    assert (gauge.value, gauge.unit, gauge.state) == ("3.67", "cm²/cm³", "good")


def test_the_hint_of_the_page_speaks_and_its_mend_silences_it(monkeypatch: pytest.MonkeyPatch) -> None:
    hints._load()  # once and for all, before its list is set aside
    monkeypatch.setattr(hints, "_rules", [])
    draft = {"id": "d", "type": "draft", "faces": [{"face": "e.side[f1_L1]"}], "angle": "8 deg"}
    document = part([rectangle("s", "40", "30"), extrude("e", "s", "20"), draft])
    with run_from("add-a-hint.md", "supplecast.hints.steep"):
        (hint,) = hints.heard(document, built(document))
        assert (hint.step, hint.words) == ("d", "8° is steep for a draft.")
        mended, _ = apply(document, read_edit(hint.edit))
        assert hints.heard(mended, built(mended)) == []


def test_the_sketch_tool_of_the_page_draws() -> None:
    """A square of diagonal 24 mm has 288 mm²; its place, its turn held level, and nothing else is free."""
    with run_from("add-a-sketch-tool.md", "supplecast.sketch.tools.lozenge") as page:
        known = tools.tools()
        known["lozenge"] = page.TOOLS[0]
        try:
            done = drawn("lozenge", pick(3, 4), pick(9, 4), across="24 mm")
            assert areas(done.drawing) == pytest.approx([288])
            assert done.solution.freedoms == 2, "where it stands"
        finally:
            del known["lozenge"]


def test_the_format_of_the_page_is_read_by_others(monkeypatch: pytest.MonkeyPatch) -> None:
    box = bodies(part([rectangle("s", "10", "20"), extrude("e", "s", "30")]))["e"]
    with run_from("add-a-file-format.md", "supplecast.exchange.formats.obj") as page:
        monkeypatch.setattr(handoff, "formats", lambda: {"obj": page.FORMAT})
        content = handoff.write([box], "obj")
    read = trimesh.load(io.BytesIO(content), file_type="obj", force="mesh")
    assert read.is_watertight and read.volume == pytest.approx(6000)
