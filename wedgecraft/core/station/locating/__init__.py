"""Ways of locating a part, one file a kind (two for the kinds of pins)."""
