"""Cutting load: what a cut puts on the part and the spindle.

``load`` the entrance, by kind of cut · ``milling`` teeth on an arc · ``holes`` drill, ream, tap,
bore · ``path`` where the cutter's axis goes and how long it takes · ``figures`` the story of every
number.
"""
