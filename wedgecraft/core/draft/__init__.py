"""A file, a material and a quantity: everything else proposed, and planned.

``bare`` what a person said · ``shape`` the part a file holds · ``sides`` which sides tools must
come from · ``blanks`` the standard blank · ``tools`` the shop's cutters for a place · ``milled``
and ``drilled`` the cuts of an op · ``tolerances`` what the drawing does not say · ``held`` how each
op is held · ``proposal`` the document, marked with what was proposed and why · ``assumed`` what to
argue with.
"""
