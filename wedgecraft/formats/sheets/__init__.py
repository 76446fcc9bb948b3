"""Drawings written as files: SVG and PDF as they lie on paper, DXF at true size."""
