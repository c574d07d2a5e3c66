"""Imported once by the fork server, so that every worker starts with the kernel and all steps loaded."""

from supplecast import kernel
from supplecast.document.step import load_steps

load_steps()
kernel.preload()
