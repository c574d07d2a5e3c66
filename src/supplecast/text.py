"""Text from outside: which characters names may hold, and JSON read with its limits."""

from __future__ import annotations

import json
import re
from typing import Any

from pydantic import BeforeValidator

from supplecast.errors import DocumentError

# Controls and separators of lines stand for a space; what no text may hold (XML 1.0, 2.2: other controls, halves of
# surrogate pairs, and code points that are no characters) goes, and so do the marks that turn round what is written after them.
_SPACES = re.compile("[\t\n\v\f\r\x1c-\x1f\x85\u2028\u2029]+")
_NEVER = re.compile(
    "[\x00-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069\ud800-\udfff\ufdd0-\ufdef\ufeff"
    + "".join(chr(plane + end) for plane in range(0, 0x110000, 0x10000) for end in (0xFFFE, 0xFFFF))
    + "]"
)
_DEEPEST = 300
_LONGEST_NUMBER = 40


def cleaned(text: str) -> str:
    """A text with only such characters as a line of text may hold in any file."""
    return _NEVER.sub("", _SPACES.sub(" ", text))


Cleaned = BeforeValidator(lambda value: cleaned(value) if isinstance(value, str) else value)
"""Marks a field of text that people read and files carry."""


def read_json(text: str | bytes) -> Any:
    """JSON from outside. DocumentError for what is no sound JSON, lies too deep inside itself, or holds numbers or characters
    that can be neither kept nor worked with.
    """
    try:
        data = json.loads(text, parse_int=_whole, parse_float=_real, parse_constant=_real)
        _refuse_depth(data)
        if _may_hold_halves(text):
            json.dumps(data, ensure_ascii=False).encode()  # half of a pair of surrogates is no character
    except RecursionError as fault:
        raise DocumentError("It holds too many things inside each other.", f"No more than {_DEEPEST} levels.") from fault
    except UnicodeEncodeError as fault:
        raise DocumentError("It holds characters that are none.", "Type the text again.") from fault
    except (ValueError, UnicodeDecodeError) as fault:
        where = f" (line {fault.lineno})" if isinstance(fault, json.JSONDecodeError) else ""
        raise DocumentError(f"It is not sound JSON{where}.") from fault
    return data


def _may_hold_halves(text: str | bytes) -> bool:
    if isinstance(text, bytes):
        return b"\xed" in text or b"\\ud" in text or b"\\uD" in text
    return re.search(r"\\u[dD]|[\ud800-\udfff]", text) is not None


def _whole(text: str) -> int:
    if len(text) > _LONGEST_NUMBER:
        raise DocumentError(f"It holds a number of {len(text)} digits.", "Type a shorter number.")
    return int(text)


def _real(text: str) -> float:
    number = float(text)
    if number in (float("inf"), float("-inf")) or number != number:
        raise DocumentError(f"It holds a number that is not finite ({text[:20]}).", "Type a smaller number.")
    return number


def _refuse_depth(data: Any) -> None:
    level = [data]
    for _ in range(_DEEPEST):
        holders = [one for one in level if isinstance(one, (list, dict))]
        if not holders:
            return
        level = [inner for one in holders for inner in (one.values() if isinstance(one, dict) else one)]
    raise RecursionError
