"""Forms, one file a kind: ways of holding parts in a setup."""
