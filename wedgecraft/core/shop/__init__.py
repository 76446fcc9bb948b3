"""What a shop has: machines, vises, plates, blocks, clamps, locators, cutters, holders, materials,
house rules.

``document`` one entry and the kinds there are · ``kinds`` the dimensions of each kind · ``shipped``
the generic entries · ``table`` entries as rows of text and back.
"""
