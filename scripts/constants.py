"""Changes each number among a module's constants and tables in turn, by a fifth, and names those that no test notices.

python scripts/constants.py supplecast.tooling.fits tests/test_formulas.py
"""

from __future__ import annotations

import contextlib
import importlib
import io
import os
import sys
from collections.abc import Iterator
from types import ModuleType
from typing import Any

import pytest


def changed(value: Any) -> Iterator[tuple[str, Any]]:
    """Each way to change one number within a value, with its place: the value itself, or in a table."""
    if isinstance(value, bool):
        return
    if isinstance(value, (int, float)):
        yield "", value * 1.2 if value else 1.0
    elif isinstance(value, dict):
        for key, inner in value.items():
            for place, other in changed(inner):
                yield f"[{key!r}]{place}", {**value, key: other}
    elif type(value) is tuple:
        for index, inner in enumerate(value):
            for place, other in changed(inner):
                yield f"[{index}]{place}", (*value[:index], other, *value[index + 1 :])


def own(module: ModuleType) -> dict[str, Any]:
    """The constants that a module defines itself."""
    return {name: value for name, value in vars(module).items() if name.strip("_").isupper()}


def noticed(tests: str) -> bool:
    """Whether the tests fail, run in a child that keeps what is loaded already."""
    child = os.fork()
    if child == 0:
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            code = pytest.main(["-x", "-q", "-p", "no:cacheprovider", "--noconftest", tests])
        os._exit(int(code != 0))
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) != 0


def main(name: str, tests: str) -> None:
    module = importlib.import_module(name)
    if noticed(tests):
        raise SystemExit(f"{tests} fails before anything is changed.")
    survivors, tried = 0, 0
    for constant, value in own(module).items():
        for place, other in changed(value):
            tried += 1
            setattr(module, constant, other)
            if not noticed(tests):
                survivors += 1
                print(f"--- {name}.{constant}{place}: survived")
        setattr(module, constant, value)
    print(f"{tried} numbers among the constants changed, {survivors} unnoticed")


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2])
