"""Independent engines and arguments that check the kernel's results."""
