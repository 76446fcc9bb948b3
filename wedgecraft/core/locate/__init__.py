"""Locate: from locators and datum faces to where every feature may end up, station by station."""
