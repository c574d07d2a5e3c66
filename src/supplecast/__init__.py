"""Supple Cast: thin-walled molded parts, and the molds derived from them."""

__version__ = "0.1.0"
