"""The blueprint of the JSON API: a view says by its types what it is asked and what it answers.

A parameter `asked` is the body of the request, read by its model; `query` what stands behind the question mark. What a view
returns is written as JSON by its type, unless it is a response already.
"""

from __future__ import annotations

import typing
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

from flask import Blueprint, Response, request
from pydantic import BaseModel, TypeAdapter, ValidationError

from supplecast.errors import DocumentError
from supplecast.text import read_json

V = TypeVar("V", bound=Callable[..., Any])


class View:
    """What a view is asked and what it answers, by its types."""

    def __init__(self, view: Callable[..., Any]) -> None:
        types = typing.get_type_hints(view, include_extras=True)
        self.asked: type[BaseModel] | None = types.get("asked")
        self.query: type[BaseModel] | None = types.get("query")
        self.answer: Any = None if types["return"] is Response else types["return"]
        self.adapter: TypeAdapter[Any] | None = TypeAdapter(self.answer) if self.answer is not None else None

    def arguments(self) -> dict[str, Any]:
        """What the request holds for the view. DocumentError for what its models refuse."""
        values: dict[str, Any] = {}
        if self.asked is not None:
            data = _json() if request.is_json else None
            if not isinstance(data, dict):
                raise DocumentError("The request holds no JSON object.", "Reload the page.")
            values["asked"] = _read(self.asked, data)
        if self.query is not None:
            values["query"] = _read(self.query, request.args.to_dict())
        return values

    def written(self, answer: Any) -> Response:
        if isinstance(answer, Response):
            return answer
        assert self.adapter is not None
        return Response(self.adapter.dump_json(answer, by_alias=True), mimetype="application/json")


class TypedBlueprint(Blueprint):
    """A blueprint whose views are typed; `views` has them by their endpoint's name."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self.views: dict[str, View] = {}

    def get(self, rule: str, **more: Any) -> Callable[[V], V]:
        return self._under("GET", rule, more)

    def post(self, rule: str, **more: Any) -> Callable[[V], V]:
        return self._under("POST", rule, more)

    def delete(self, rule: str, **more: Any) -> Callable[[V], V]:
        return self._under("DELETE", rule, more)

    def _under(self, method: str, rule: str, more: dict[str, Any]) -> Callable[[V], V]:
        def registered(view: V) -> V:
            self.add_url_rule(rule, None, view, methods=[method], **more)
            return view

        return registered

    def add_url_rule(
        self, rule: str, endpoint: str | None = None, view_func: Callable[..., Any] | None = None, *args: Any, **more: Any
    ) -> None:
        assert view_func is not None
        view = self.views[endpoint or view_func.__name__] = View(view_func)

        @wraps(view_func)
        def answer(**parameters: Any) -> Response:
            return view.written(view_func(**parameters, **view.arguments()))

        super().add_url_rule(rule, endpoint, answer, *args, **more)


def _json() -> Any:
    try:
        return read_json(request.get_data())
    except DocumentError as fault:
        raise DocumentError(f"The request cannot be read: {fault.message}", fault.hint or "Reload the page.") from fault


def _read(model: type[BaseModel], data: dict[str, Any]) -> BaseModel:
    try:
        return model.model_validate(data)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        words = str(first["msg"]).removeprefix("Value error, ")
        raise DocumentError(
            f"The request’s “{where}” cannot be read: {words[:1].lower()}{words[1:]}.", "Reload the page."
        ) from fault


api = TypedBlueprint("api", __name__, url_prefix="/api")
