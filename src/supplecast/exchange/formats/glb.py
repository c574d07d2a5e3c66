"""GLB: triangles for viewers."""

from __future__ import annotations

from supplecast.exchange.formats import FileFormat, of_triangles
from supplecast.exchange.glb import write_glb

FORMAT = FileFormat("glb", "model/gltf-binary", "triangles for viewers", 40, of_triangles(write_glb))
