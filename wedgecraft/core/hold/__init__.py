"""Whether it is held, how forces share themselves out, what gives, how deep a vise must hold."""
