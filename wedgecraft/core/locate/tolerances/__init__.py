"""Kinds of tolerance, one file a kind: a new one is a new file here, and its test."""
