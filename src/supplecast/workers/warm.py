"""Imported once by the fork server, so that every worker starts with the kernel, all steps and compiled searches loaded."""

from supplecast import art, kernel, search
from supplecast.document.step import load_steps
from supplecast.exchange import raster
from supplecast.workers import registry

load_steps()
kernel.preload()
registry.load()
search.warm()
raster.warm()
art.decal.warm()
kernel.triangulation_turned.warm()
