"""Solids and surfaces as values, the history of what made them, outlines made ready, and solids as bytes."""
