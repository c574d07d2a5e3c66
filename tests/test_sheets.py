"""Recorded build sheets of molded parts, rebuilt: volumes as recorded, and by an independent engine. Sizes are invented."""

from __future__ import annotations

from pathlib import Path

import pytest

from supplecast.document.model import parse_document
from supplecast.kernel import check, measure
from tests.conftest import bodies
from tests.referee.meshes import manifold

SHEETS = Path(__file__).parent / "sheets"
VOLUMES: dict[str, dict[str, float]] = {
    "tray": {"e": 22030.6891},
    "ribbed cover": {"e": 24078.0442},
    "screw base": {"e": 23700.9066},
    "lidded box": {"e1": 12578.9644, "e2": 7775.8996},
    "stepped wall": {"e": 12721.3379},
    "cup": {"e": 34371.8968},
    "sleeve": {"e": 9399.6452},
    "snap lid": {"e": 4370.0278, "m": 1492.0566},
    "bezel": {"e": 8128.537},
    "label plate": {"e": 6204.18},
    "curved badge": {"e": 254988.6103},
    "split draft grip": {"e": 29003.4334},
    "tied boss": {"e": 23229.857},
}


@pytest.mark.parametrize("name", VOLUMES)
def test_a_recorded_sheet_is_rebuilt_to_its_volume(name: str) -> None:
    """mm³; triangles within 0.01 mm of the surface weigh the same to 5e-4, less on parts with few rounds."""
    document = parse_document((SHEETS / f"{name.replace(' ', '-')}.supple.json").read_bytes())
    built = bodies(document)
    assert built.keys() == VOLUMES[name].keys()
    for body, volume in VOLUMES[name].items():
        solid = built[body].body.solid
        assert measure.volume(solid) == pytest.approx(volume, rel=2e-6)
        assert manifold(solid, 0.01, 0.1).volume() == pytest.approx(volume, rel=5e-4)
        assert not check.faults(solid)


def test_every_recorded_sheet_is_rebuilt() -> None:
    assert {path.name.removesuffix(".supple.json") for path in SHEETS.iterdir()} == {n.replace(" ", "-") for n in VOLUMES}
