"""One place for one part or a few: bodies and sweeps, stops, what touches where, the cuts' load
there, how it comes out.
"""
