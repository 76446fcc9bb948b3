"""Open formats in and out. ``dxf`` reads outlines."""
