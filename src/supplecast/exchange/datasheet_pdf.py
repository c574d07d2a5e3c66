"""The report of a part as PDF, on one page of A4."""

from __future__ import annotations

import io
from collections.abc import Sequence

from fpdf import FPDF
from fpdf.drawing import color_from_hex_string
from fpdf.enums import XPos, YPos

from supplecast.document.parts_list import Item
from supplecast.document.surface_list import SurfaceMark
from supplecast.exchange.datasheet import Datasheet, Reading
from supplecast.exchange.pdf_page import INK, LINE, MARGIN, SOFT, WIDTH, blank
from supplecast.exchange.triangles import ROLE_COLOURS
from supplecast.geometry import Point2
from supplecast.molding.stack_drawing import StackSection
from supplecast.wording import show

_FAULT, _DOUBT = (185, 54, 35), (122, 79, 0)
_OUTLINE = "#12211F"
_COLOURS = {"fault": _FAULT, "doubt": _DOUBT}
_BOTTOM, _STACK_HIGH = 283.0, 130.0


def write_pdf(sheet: Datasheet) -> bytes:
    """The report as PDF on A4; a long build sheet runs on to further pages."""
    page = blank(sheet.title)
    page.add_page()
    _heading(page, sheet)
    _pictures(page, sheet.pictures)
    _readings(page, sheet.readings)
    _columns(page, sheet)
    if sheet.stack:
        _stack(page, sheet.stack)
    if sheet.items:
        _items(page, sheet.items)
    if sheet.surfaces:
        _surfaces(page, sheet.surfaces)
    _title(page, "Build sheet")
    page.set_font("Sheet", "", 8.5)
    for number, words in enumerate(sheet.steps, 1):
        page.set_text_color(*SOFT)
        page.cell(7, 4.3, str(number))
        page.set_text_color(*INK)
        page.multi_cell(WIDTH - 7, 4.3, words, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    return bytes(page.output())


def _heading(page: FPDF, sheet: Datasheet) -> None:
    page.set_text_color(*INK)
    page.set_font("Sheet", "B", 17)
    page.cell(WIDTH, 8, sheet.title, new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.set_font("Sheet", "", 9)
    page.set_text_color(*SOFT)
    page.multi_cell(WIDTH, 4.5, sheet.about, new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def _pictures(page: FPDF, pictures: Sequence[tuple[str, bytes]]) -> None:
    if not pictures:
        return
    width = (WIDTH - 3 * (len(pictures) - 1)) / len(pictures)
    top = page.get_y() + 3
    height = width * 0.7
    page.set_draw_color(*LINE)
    page.set_font("Sheet", "", 7.5)
    for number, (caption, content) in enumerate(pictures):
        x = MARGIN + number * (width + 3)
        page.rect(x, top, width, height)
        page.image(io.BytesIO(content), x, top + 1, width, height - 2, keep_aspect_ratio=True)
        page.set_xy(x, top + height + 0.5)
        page.cell(width, 4, caption)
    page.set_xy(MARGIN, top + height + 6)


def _readings(page: FPDF, readings: Sequence[Reading]) -> None:
    if not readings:
        return
    width = WIDTH / len(readings)
    top = page.get_y()
    page.line(MARGIN, top, MARGIN + WIDTH, top)
    for number, one in enumerate(readings):
        x = MARGIN + number * width
        colour = _COLOURS.get(one.state, INK)
        for dy, size, style, words, ink in (
            (1, 7.5, "", one.name, SOFT),
            (4.5, 11, "B", one.value, colour),
            (9.5, 7, "", one.verdict, colour if one.state in _COLOURS else SOFT),
        ):
            page.set_xy(x, top + dy)
            page.set_font("Sheet", style, size)
            page.set_text_color(*ink)
            page.cell(width - 1, 4.5, words)
    page.line(MARGIN, top + 15, MARGIN + WIDTH, top + 15)
    page.set_xy(MARGIN, top + 17)


def _stack(page: FPDF, stack: StackSection) -> None:
    """The section, as large as the page allows, with the numbers of the parts list in it."""
    page.add_page()
    _title(page, "Section through the stack, fixed side above")
    scale = min(WIDTH / stack.width, _STACK_HIGH / stack.height)
    left, top = page.get_x() + (WIDTH - scale * stack.width) / 2, page.get_y() + 2

    def at(place: Point2) -> tuple[float, float]:
        return left + scale * place[0], top + scale * (stack.height - place[1])

    page.set_line_width(0.1)
    page.set_draw_color(*INK)
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
    page.set_text_color(*INK)
    page.set_fill_color(255, 255, 255)
    for label in stack.labels:
        x, y = at(label.place)
        page.ellipse(x - 2.1, y - 2.1, 4.2, 4.2, style="DF")
        page.set_xy(x - 3, y - 2)
        page.cell(6, 4, str(label.item), align="C")
    page.set_line_width(0.2)
    page.set_xy(MARGIN, top + scale * stack.height + 3)


def _items(page: FPDF, items: Sequence[Item]) -> None:
    _title(page, "Parts list, sizes in mm")
    page.set_font("Sheet", "", 8)
    page.set_text_color(*INK)
    page.set_draw_color(*LINE)
    with page.table(borders_layout="HORIZONTAL_LINES", line_height=4.2, col_widths=(6, 8, 46, 50, 24, 22)) as table:
        table.row(("No.", "Count", "What", "Size", "Material", "By"))
        for item in items:
            table.row((str(item.number), str(item.count), item.what, item.size, item.material, item.norm))
    page.set_x(MARGIN)


def _surfaces(page: FPDF, marks: Sequence[SurfaceMark]) -> None:
    _title(page, "Surfaces")
    page.set_font("Sheet", "", 8)
    page.set_text_color(*INK)
    page.set_draw_color(*LINE)
    with page.table(borders_layout="HORIZONTAL_LINES", line_height=4.2, col_widths=(46, 18, 18, 34, 28, 32)) as table:
        table.row(("What", "Code", "Area, cm²", "Middle, mm", "Part", "Formed by"))
        for one in marks:
            place = ", ".join(show(c, 2) for c in one.place)
            table.row((one.what, one.code, show(one.area / 100, 2), place, one.part, ", ".join(one.formed_by)))
    page.set_x(MARGIN)


def _title(page: FPDF, words: str) -> None:
    page.ln(2)
    page.set_font("Sheet", "B", 10.5)
    page.set_text_color(*INK)
    page.cell(WIDTH, 6, words, new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def _columns(page: FPDF, sheet: Datasheet) -> None:
    """What to look at to the left, the figures behind the gauges to the right."""
    top, half = page.get_y(), WIDTH / 2 - 3
    page.set_font("Sheet", "", 8)
    page.set_text_color(*INK)
    for words in sheet.places or ("Nothing is out of its band.",):
        page.multi_cell(half, 4, words, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    left = page.get_y()
    page.set_xy(MARGIN + half + 6, top)
    for name, words in sheet.facts:
        page.set_x(MARGIN + half + 6)
        page.set_text_color(*SOFT)
        page.cell(half * 0.55, 4, name)
        page.set_text_color(*INK)
        page.cell(half * 0.45, 4, words, align="R", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    page.set_xy(MARGIN, min(max(left, page.get_y()), _BOTTOM))
