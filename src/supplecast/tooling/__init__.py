"""Materials and rules of mold making, as data and closed formulas."""
