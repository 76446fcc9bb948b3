"""Kinds of file a layout can be taken out as: a new one is a new file here, and its test."""
