"""The sides of a mold base: what role its bodies have there, and the assemblies under which they are listed and handed off."""

from __future__ import annotations

from collections.abc import Mapping

from supplecast.document.state import Role
from supplecast.tooling.base.stack import Side

ROLES: Mapping[Side, Role] = {"fixed": "fixed base", "moving": "moving base", "ejection": "ejection"}
GROUPS: Mapping[Side, str] = {"fixed": "Fixed side", "moving": "Moving side", "ejection": "Ejection"}
