"""Outlines in a plane: points, entities and constraints, solved with NumPy; no geometry kernel here."""
