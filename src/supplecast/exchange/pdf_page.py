"""What all our PDFs share: A4, the shipped fonts, the colours of the screens."""

from __future__ import annotations

import tempfile
from importlib import resources
from pathlib import Path

from fontTools.ttLib import TTFont
from fpdf import FPDF

INK, SOFT, LINE = (18, 33, 31), (81, 98, 95), (201, 210, 207)
MARGIN, WIDTH = 14.0, 182.0
"""Mm on A4."""


def blank(title: str) -> FPDF:
    """A document without pages yet, with the fonts “Sheet” and “Sheet” bold."""
    page = FPDF(format="A4", unit="mm")
    page.set_auto_page_break(True, margin=14)
    with tempfile.TemporaryDirectory(prefix="supplecast-fonts-") as folder:  # the font is read when it is added
        for style, name in (("", "regular"), ("B", "bold")):
            page.add_font("Sheet", style, _plain_font(name, Path(folder)))
    page.set_margins(MARGIN, 13, MARGIN)
    page.c_margin = 0
    page.set_title(title)
    page.set_creator("Supple Cast")
    return page


def _plain_font(name: str, folder: Path) -> Path:
    """A shipped font as a plain TrueType file, which is what PDF holds."""
    font = TTFont(resources.files("supplecast.fonts") / f"{name}.woff")
    font.flavor = None
    font.save(folder / f"{name}.ttf")
    return folder / f"{name}.ttf"
