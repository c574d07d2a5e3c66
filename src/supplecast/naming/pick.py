"""Picks as pages and steps write them: a face, an edge, or a rule, with whatever else they keep beside it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from supplecast.naming.reference import EdgeRef, FaceRef
from supplecast.naming.rules import Rule


def read_pick(pick: Mapping[str, Any]) -> FaceRef | EdgeRef | Rule | None:
    """What a pick means of the model, and None of what is no pick on it: a sketch, an origin. A rule may start from a pick of
    its own; a pick may hold more than its model knows, such as a place on an edge. pydantic's ValidationError for nonsense.
    """
    if not {"face", "edge", "rule"} & pick.keys():
        return None
    model = Rule if "rule" in pick else FaceRef if "face" in pick else EdgeRef
    return model.model_validate({name: pick[name] for name in model.model_fields if pick.get(name) is not None})
