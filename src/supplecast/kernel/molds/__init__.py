"""What a mold is made of: parting line and surface, shut-offs, halves, slides, runners."""
