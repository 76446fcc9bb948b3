"""Wedgecraft: fixture layouts with the most good parts a cycle, held and in tolerance."""

__version__ = "0.1.0"
