"""3MF: triangles for printers."""

from __future__ import annotations

from supplecast.exchange.formats import FileFormat, of_triangles
from supplecast.exchange.three_mf import write_3mf

FORMAT = FileFormat("3mf", "model/3mf", "triangles with names, colours, unit", 30, of_triangles(write_3mf))
