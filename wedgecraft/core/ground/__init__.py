"""What every room stands on: errors, documents, units, arcs, figures and limits with their sources,
standard fits.
"""
