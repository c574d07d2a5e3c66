"""Steps that build a part."""
