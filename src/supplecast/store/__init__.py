"""What lasts: projects, documents and their revisions, imported files."""
