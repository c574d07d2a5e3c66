"""STL: triangles without names."""

from __future__ import annotations

from supplecast.exchange.formats import FileFormat, of_triangles
from supplecast.exchange.triangles import write_stl

FORMAT = FileFormat("stl", "model/stl", "triangles, binary", 20, of_triangles(write_stl))
