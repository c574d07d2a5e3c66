"""What stands on a body or is sunk into it: ribs, bosses, hooks, lips, letters, contours."""
