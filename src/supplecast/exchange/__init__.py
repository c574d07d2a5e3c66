"""Files in and out: STEP, STL, 3MF, GLB and the document's own JSON."""
