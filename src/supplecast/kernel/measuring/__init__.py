"""What can be known of a solid without changing it: exact measures, kinds of edges, planes and axes, draft, flat outlines."""
