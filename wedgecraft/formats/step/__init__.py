"""Solids from STEP files. ``kernel`` reads one with the CAD kernel and must only run in a process
of its own; ``reader`` keeps that process, so that a file that brings the kernel down takes nothing
else with it.
"""
