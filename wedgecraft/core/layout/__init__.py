"""Layout: the most stations on the given faces, with an upper bound beside the count.

``nofit`` where a station may stand, relative to face and neighbours · ``regular`` rows and
staggered rows · ``fill`` corner by corner · ``recursive`` boxes in blocks · ``exact`` choice among
positions found · ``bound`` what no layout can exceed · ``solve`` all of it in order. Import from
the modules: the solver's libraries are heavy and only ``solve`` needs them.
"""
