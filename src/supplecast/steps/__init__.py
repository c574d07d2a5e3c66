"""Every build step, one module each, found by scanning this package."""
