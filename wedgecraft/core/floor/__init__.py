"""From desk to machine and back: the sheet a setter works by, what is lifted."""
