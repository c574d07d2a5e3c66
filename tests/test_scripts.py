"""The pages' scripts that hold logic, by node's own test runner where node is there; they need no package of npm. And what the
bench counts with.
"""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

import pytest
from scripts import tagging

from supplecast import kernel
from supplecast.exchange.glb import write_glb
from supplecast.exchange.triangles import Part
from tests.conftest import bodies, extrude, part, rectangle

TESTS = Path(__file__).parent.parent / "frontend" / "tests"
NODE = shutil.which("node")


@pytest.mark.skipif(NODE is None, reason="node is not on this machine")
def test_modes_numbers_picking_camera_section_paint_and_belt(tmp_path: Path) -> None:
    box = bodies(part([rectangle("s", "10", "20"), extrude("e", "s", "30")]))["e"].body.solid
    box_glb = tmp_path / "box.glb"
    box_glb.write_bytes(write_glb([Part("box", "part", kernel.mesh.tessellate(box, 0.1, 0.3))]))
    run = subprocess.run(
        [str(NODE), "--import", str(TESTS / "page.js"), "--test", *map(str, sorted(TESTS.glob("*.test.js")))],
        env={**os.environ, "BOX_GLB": str(box_glb)},
        capture_output=True,
        text=True,
        timeout=300,
    )
    assert run.returncode == 0, run.stdout + run.stderr


def test_the_clock_for_names_goes_round_functions_that_are_there() -> None:
    with tagging.measured() as clock:
        bodies(part([rectangle("s", "4", "3"), extrude("e", "s", "2")]))
    assert clock.seconds > 0
