"""What machines and people write down, in open formats."""
