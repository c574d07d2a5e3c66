"""Files of other programs: STEP, STL, 3MF."""
