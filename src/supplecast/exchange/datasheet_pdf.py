"""The report of a part as PDF, on one page of A4."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Sequence
from importlib import resources
from pathlib import Path

from fontTools.ttLib import TTFont
from fpdf import FPDF
from fpdf.drawing import color_from_hex_string
from fpdf.enums import XPos, YPos

from supplecast.document.parts_list import Item
from supplecast.exchange.datasheet import Datasheet, Reading
from supplecast.exchange.triangles import ROLE_COLOURS
from supplecast.geometry import Point2
from supplecast.molding.stack_drawing import StackSection

_INK, _SOFT, _LINE, _FAULT, _DOUBT = (18, 33, 31), (81, 98, 95), (201, 210, 207), (185, 54, 35), (122, 79, 0)
_OUTLINE = "#12211F"
_COLOURS = {"fault": _FAULT, "doubt": _DOUBT}
_MARGIN, _WIDTH = 14.0, 182.0  # mm on A4
_BOTTOM, _STACK_HIGH = 283.0, 130.0


def write_pdf(sheet: Datasheet) -> bytes:
    """The report as PDF on A4; a long build sheet runs on to further pages."""
    page = FPDF(format="A4", unit="mm")
    page.set_auto_page_break(True, margin=14)
    with tempfile.TemporaryDirectory(prefix="supplecast-fonts-") as folder:  # the font is read when it is added
        for style, name in (("", "regular"), ("B", "bold")):
            page.add_font("Sheet", style, _plain_font(name, Path(folder)))
    page.set_margins(_MARGIN, 13, _MARGIN)
    page.c_margin = 0
    page.set_title(sheet.title)
    page.set_creator("Supple Cast")
    page.add_page()
    _heading(page, sheet)
    _pictures(page, sheet.pictures)
    _readings(page, sheet.readings)
    _columns(page, sheet)
    if sheet.stack:
        _stack(page, sheet.stack)
    if sheet.items:
        _items(page, sheet.items)
    _title(page, "Build sheet")
    page.set_font("Sheet", "", 8.5)
    for number, words in enumerate(sheet.steps, 1):
        page.set_text_color(*_SOFT)
        page.cell(7, 4.3, str(number))
        page.set_text_color(*_INK)
        page.multi_cell(_WIDTH - 7, 4.3, words, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    return bytes(page.output())


def _plain_font(name: str, folder: Path) -> Path:
    """A shipped font as a plain TrueType file, which is what PDF holds."""
    font = TTFont(resources.files("supplecast.fonts") / f"{name}.woff")
    font.flavor = None
    font.save(folder / f"{name}.ttf")
    return folder / f"{name}.ttf"


def _heading(page: FPDF, sheet: Datasheet) -> None:
    page.set_text_color(*_INK)
    page.set_font("Sheet", "B", 17)
    page.cell(_WIDTH, 8, sheet.title, new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.set_font("Sheet", "", 9)
    page.set_text_color(*_SOFT)
    page.multi_cell(_WIDTH, 4.5, sheet.about, new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def _pictures(page: FPDF, pictures: Sequence[tuple[str, bytes]]) -> None:
    if not pictures:
        return
    width = (_WIDTH - 3 * (len(pictures) - 1)) / len(pictures)
    top = page.get_y() + 3
    height = width * 0.7
    page.set_draw_color(*_LINE)
    page.set_font("Sheet", "", 7.5)
    for number, (caption, content) in enumerate(pictures):
        x = _MARGIN + number * (width + 3)
        page.rect(x, top, width, height)
        page.image(io.BytesIO(content), x, top + 1, width, height - 2, keep_aspect_ratio=True)
        page.set_xy(x, top + height + 0.5)
        page.cell(width, 4, caption)
    page.set_xy(_MARGIN, top + height + 6)


def _readings(page: FPDF, readings: Sequence[Reading]) -> None:
    if not readings:
        return
    width = _WIDTH / len(readings)
    top = page.get_y()
    page.line(_MARGIN, top, _MARGIN + _WIDTH, top)
    for number, one in enumerate(readings):
        x = _MARGIN + number * width
        colour = _COLOURS.get(one.state, _INK)
        for dy, size, style, words, ink in (
            (1, 7.5, "", one.name, _SOFT),
            (4.5, 11, "B", one.value, colour),
            (9.5, 7, "", one.verdict, colour if one.state in _COLOURS else _SOFT),
        ):
            page.set_xy(x, top + dy)
            page.set_font("Sheet", style, size)
            page.set_text_color(*ink)
            page.cell(width - 1, 4.5, words)
    page.line(_MARGIN, top + 15, _MARGIN + _WIDTH, top + 15)
    page.set_xy(_MARGIN, top + 17)


def _stack(page: FPDF, stack: StackSection) -> None:
    """The section, as large as the page allows, with the numbers of the parts list in it."""
    page.add_page()
    _title(page, "Section through the stack, fixed side above")
    scale = min(_WIDTH / stack.width, _STACK_HIGH / stack.height)
    left, top = page.get_x() + (_WIDTH - scale * stack.width) / 2, page.get_y() + 2

    def at(place: Point2) -> tuple[float, float]:
        return left + scale * place[0], top + scale * (stack.height - place[1])

    page.set_line_width(0.1)
    page.set_draw_color(*_INK)
    for cut in stack.cuts:
        with page.new_path() as path:
            path.style.intersection_rule = "evenodd"
            path.style.fill_color = color_from_hex_string(ROLE_COLOURS[cut.role])
            path.style.stroke_color = color_from_hex_string(_OUTLINE)
            path.style.stroke_width = 0.1
            for loop in cut.loops:
                path.move_to(*at(loop[0]))
                for place in loop[1:]:
                    path.line_to(*at(place))
                path.close()
    page.set_font("Sheet", "B", 7)
    page.set_text_color(*_INK)
    page.set_fill_color(255, 255, 255)
    for label in stack.labels:
        x, y = at(label.place)
        page.ellipse(x - 2.1, y - 2.1, 4.2, 4.2, style="DF")
        page.set_xy(x - 3, y - 2)
        page.cell(6, 4, str(label.item), align="C")
    page.set_line_width(0.2)
    page.set_xy(_MARGIN, top + scale * stack.height + 3)


def _items(page: FPDF, items: Sequence[Item]) -> None:
    _title(page, "Parts list, sizes in mm")
    page.set_font("Sheet", "", 8)
    page.set_text_color(*_INK)
    page.set_draw_color(*_LINE)
    with page.table(borders_layout="HORIZONTAL_LINES", line_height=4.2, col_widths=(6, 8, 46, 50, 24, 22)) as table:
        table.row(("No.", "Count", "What", "Size", "Material", "By"))
        for item in items:
            table.row((str(item.number), str(item.count), item.what, item.size, item.material, item.norm))
    page.set_x(_MARGIN)


def _title(page: FPDF, words: str) -> None:
    page.ln(2)
    page.set_font("Sheet", "B", 10.5)
    page.set_text_color(*_INK)
    page.cell(_WIDTH, 6, words, new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def _columns(page: FPDF, sheet: Datasheet) -> None:
    """What to look at to the left, the figures behind the gauges to the right."""
    top, half = page.get_y(), _WIDTH / 2 - 3
    page.set_font("Sheet", "", 8)
    page.set_text_color(*_INK)
    for words in sheet.places or ("Nothing is out of its band.",):
        page.multi_cell(half, 4, words, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    left = page.get_y()
    page.set_xy(_MARGIN + half + 6, top)
    for name, words in sheet.facts:
        page.set_x(_MARGIN + half + 6)
        page.set_text_color(*_SOFT)
        page.cell(half * 0.55, 4, name)
        page.set_text_color(*_INK)
        page.cell(half * 0.45, 4, words, align="R", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.set_xy(_MARGIN, min(max(left, page.get_y()), _BOTTOM))
