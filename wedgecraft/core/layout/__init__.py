"""Layout: the most stations on the given faces, with an upper bound beside the count.

``nofit`` where a station may stand, relative to face and neighbours · ``regular`` rows and
staggered rows · ``fill`` corner by corner · ``boxed`` stations as boxes, ``recursive`` those in
blocks, ``boxes`` and ``skyline`` identical ones in whole units · ``exact`` choice among positions
found · ``bound`` what no layout can exceed · ``one`` a face with all of it in order, ``mix`` faces
that kinds share, ``solve`` the whole request. Import from the modules: the solver's libraries are
heavy and only ``solve`` needs them.
"""
