"""The whole of it: clamps and datum chosen, stations packed, one design, what a person placed, the
job.
"""
