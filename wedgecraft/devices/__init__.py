"""Simulated stand-ins for what stands round a machine, and who listens to them.

They speak open formats: real ones that speak the same can take their place.
"""
