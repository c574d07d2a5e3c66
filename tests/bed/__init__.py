"""A test bed of names: parts, picks on them, random edits, and an oracle that uses points and areas but no names."""
