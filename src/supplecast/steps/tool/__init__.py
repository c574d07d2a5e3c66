"""Steps that derive a mold from a part."""
