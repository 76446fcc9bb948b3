"""What is asked and answered, nothing computed: part, op, cut, station, request, design,
verdicts.
"""
