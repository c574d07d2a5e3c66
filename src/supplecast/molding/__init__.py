"""What a part weighs and whether it can be molded."""
