"""The handbook as PDF, with its contents in front and as bookmarks."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from fpdf import FPDF
from fpdf.enums import XPos, YPos
from fpdf.outline import OutlineSection

from supplecast.exchange.pdf_page import INK, MARGIN, SOFT, WIDTH, blank
from supplecast.handbook import CHAPTERS, Topic, pictures, topics

_PICTURE = 62.0  # mm
_ROW = 4.6  # mm
_COLUMNS = 3


def write_handbook(said: Callable[[str], str]) -> bytes:
    """All pages in one piece; `said` puts words into the reader's unit."""
    page = blank("Supple Cast: the handbook")
    page.add_page()
    _words(page, "Supple Cast", 24, "B")
    _words(page, "The handbook: a page for each step, drawing tool and gauge, told from the program itself.", 11, "", SOFT)
    known = topics().values()
    page.insert_toc_placeholder(_contents, pages=-(-len(known) // (55 * _COLUMNS)) or 1)
    for chapter in CHAPTERS:
        mine = [topic for topic in known if topic.chapter == chapter]
        if not mine:
            continue
        page.start_section(chapter, 0)
        _words(page, chapter, 18, "B")
        for topic in mine:
            _topic(page, topic, said)
        if chapter != CHAPTERS[-1]:
            page.add_page()
    return bytes(page.output())


def _contents(page: FPDF, outline: Iterable[OutlineSection]) -> None:
    """The titles in columns, chapter by chapter, with the pages they stand on."""
    top, wide = page.get_y() + 4, WIDTH / _COLUMNS
    rows = [(section.name, section.level, section.page_number) for section in outline]
    high = -(-len(rows) // _COLUMNS)
    for number, (name, level, at) in enumerate(rows):
        page.set_xy(MARGIN + wide * (number // high), top + _ROW * (number % high))
        page.set_font("Sheet", "" if level else "B", 8.5)
        page.set_text_color(*(SOFT if level else INK))
        page.cell(wide - 14, _ROW, name)
        page.cell(8, _ROW, str(at), align="R")


def _topic(page: FPDF, topic: Topic, said: Callable[[str], str]) -> None:
    pair = pictures.of(topic.step) if topic.step else ()
    if page.get_y() > (190 if pair else 235):
        page.add_page()
    page.ln(4)
    page.start_section(topic.title, 1)
    _words(page, topic.title, 13, "B")
    _words(page, topic.purpose, 9, "", SOFT)
    if pair:
        top = page.get_y() + 1
        for place, content in enumerate(filter(None, map(pictures.picture, pair))):
            page.image(content, MARGIN + place * (_PICTURE + 4), top, _PICTURE)
        page.set_xy(MARGIN, top + _PICTURE * 0.72)
    for words in topic.paragraphs:
        _words(page, said(words), 9.5)
    if topic.sentence:
        _words(page, f"In the sheet: {said(topic.sentence)}", 9.5)
    fields = (f"{one.name}: {one.takes}{one.left_out and f'; a new one has {one.left_out}'}" for one in topic.fields)
    _rows(page, "What can be typed or picked", fields)
    _rows(page, "What goes wrong, and what would do", (said(f"{one.words} {one.mend}") for one in topic.told.refusals))
    _rows(page, "What it warns of", map(said, topic.told.cautions))
    _rows(page, "Rules and figures behind it, with their source", (said(f"{r.value} {r.words}") for r in topic.told.rules))


def _rows(page: FPDF, title: str, rows: Iterable[str]) -> None:
    found = list(rows)
    if found:
        page.ln(1)
        _words(page, title, 9.5, "B")
        for words in found:
            page.set_x(MARGIN + 3)
            _words(page, words, 8.5, wide=WIDTH - 3)


def _words(page: FPDF, words: str, size: float, style: str = "", ink: tuple[int, int, int] = INK, wide: float = WIDTH) -> None:
    page.set_font("Sheet", style, size)
    page.set_text_color(*ink)
    plain = words.replace("`", "")
    left = page.get_x()
    for line in _lines(page, plain.replace("μ", "µ"), wide, (style, size)):
        page.set_x(left)
        page.cell(wide, size * 0.5, line, new_x=XPos.LMARGIN, new_y=YPos.NEXT)


def _lines(page: FPDF, words: str, wide: float, font: tuple[str, float]) -> Iterator[str]:
    """Words in lines of a width; the library's own breaking asks for every letter anew, and takes far longer."""
    line, used, space = "", 0.0, _long(page, " ", font)
    for word in words.split():
        long = _long(page, word, font)
        if line and used + space + long > wide:
            yield line
            line, used = word, long
        else:
            used += (space if line else 0.0) + long
            line = f"{line} {word}" if line else word
    if line:
        yield line


_LONG: dict[tuple[str, tuple[str, float]], float] = {}


def _long(page: FPDF, word: str, font: tuple[str, float]) -> float:
    """The width of a word in the font that is set, mm."""
    key = (word, font)
    if key not in _LONG:
        _LONG[key] = float(page.get_string_width(word))
    return _LONG[key]
