"""What can be done to a sketch. Each act is a model with the fields that say what, and `on`, which does it with the pen.

A new act is one class in one module here; the union of all of them is made from the classes themselves.
"""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator
from functools import cache
from typing import Annotated, Any, ClassVar

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from supplecast.errors import SketchError
from supplecast.sketch.pen import Pen

Text = Annotated[str, Field(max_length=400, coerce_numbers_to_str=True)]


class Act(BaseModel):
    """`words` say in history what was done, unless `title` says it more closely. One that `reshapes` works on what is there
    already: the freedoms it gives or takes are told.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    words: ClassVar[str] = "Sketch"
    reshapes: ClassVar[bool] = False

    @property
    def title(self) -> str:
        return self.words

    def on(self, pen: Pen) -> None:
        raise NotImplementedError


@cache
def acts() -> dict[str, type[Act]]:
    """Every act by its `do`."""
    kinds = {}
    for module in pkgutil.iter_modules(__path__):
        importlib.import_module(f"{__name__}.{module.name}")
    for kind in _kinds(Act):
        field = kind.model_fields.get("do")
        if field is not None:
            kinds[str(field.default)] = kind
    return dict(sorted(kinds.items()))


def _kinds(kind: type[Act]) -> Iterator[type[Act]]:
    for inner in kind.__subclasses__():
        yield inner
        yield from _kinds(inner)


@cache
def adapter() -> TypeAdapter[Act]:
    union: Any = None
    for kind in acts().values():
        union = kind if union is None else union | kind
    return TypeAdapter(Annotated[union, Field(discriminator="do")])


def read_act(data: Any) -> Act:
    """An act from its JSON. SketchError naming the field at fault."""
    try:
        return adapter().validate_python(data)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(part) for part in first["loc"][1:]) or "do"
        raise SketchError(f"The act's {where} cannot be read: {first['msg']}.", "Reload the page.") from fault
