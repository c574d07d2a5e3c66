"""The document: an ordered list of steps, and its rebuild into bodies."""
