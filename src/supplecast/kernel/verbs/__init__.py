"""What makes a solid or changes one: each takes and returns solids with their history."""
