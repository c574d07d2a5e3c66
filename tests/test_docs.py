"""The pages: what is generated is current, what is shown as code runs, what is linked is there."""

from __future__ import annotations

import importlib.util
import json
import math
import re
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from scripts import docs

from supplecast.document.model import read_document, read_step, schema
from supplecast.document.step import Step
from supplecast.kernel import measure
from supplecast.web import sheet
from tests.conftest import built

PAGES = docs.DOCS


@pytest.mark.parametrize("path", sorted(docs.pages()), ids=lambda p: p.stem)
def test_generated_pages_are_current(path: Path) -> None:
    assert path.is_file() and path.read_text(encoding="utf-8") == docs.pages()[path], "run make docs"


@pytest.mark.parametrize("kind", sorted(Step.registry.values(), key=lambda k: k.__name__), ids=lambda k: k.__name__)
def test_every_example_reads_and_every_step_says_what_it_is_for(kind: type[Step]) -> None:
    assert isinstance(read_step(docs.example(kind)), kind)
    assert kind.word and kind.purpose and kind.follows in {"", *Step.registry}


def test_links_of_the_pages_lead_somewhere() -> None:
    for page in (*PAGES.rglob("*.md"), PAGES.parent / "README.md"):
        for target in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text(encoding="utf-8")):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


@pytest.fixture
def bar(tmp_path: Path) -> Iterator[type[Step]]:
    """The step of the worked example, a module made from the page itself."""
    code = re.search(r"```python\n(.*?)```", (PAGES / "add-a-step.md").read_text(encoding="utf-8"), re.DOTALL)
    assert code
    name, path = "supplecast.steps.part.bar", tmp_path / "bar.py"
    path.write_text(code.group(1), encoding="utf-8")
    spec = importlib.util.spec_from_file_location(name, path)
    assert spec and spec.loader
    sys.modules[name] = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(sys.modules[name])
    yield Step.registry["bar"]
    del Step.registry["bar"], sys.modules[name]


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
