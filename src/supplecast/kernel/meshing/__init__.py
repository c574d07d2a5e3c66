"""Triangles: for display, for measuring from many points at once, and for a second look at a finished solid."""
