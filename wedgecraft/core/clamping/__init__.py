"""From what a person sets to force on the part: screw, element, sharing, row between jaws,
pressure.
"""
