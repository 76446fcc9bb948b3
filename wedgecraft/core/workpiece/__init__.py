"""What the part is made from and what is found on it: loops of its drawing, arcs, holes, the
solid.
"""
