"""The builder behind the contract of `builder`: it keeps account of all that a step reads and writes."""

from supplecast.document.building.picking import Picking as RecordingBuilder

__all__ = ["RecordingBuilder"]
