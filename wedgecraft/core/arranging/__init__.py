"""Stations a person places: ``document`` what is asked and answered · ``bench`` judges them as they stand.

Import from the modules: the solver's libraries are heavy, and only ``bench`` needs them.
"""
