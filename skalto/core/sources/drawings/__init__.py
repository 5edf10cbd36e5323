"""Readers of 2D sources: DXF, SVG and the pages of a PDF, to artwork in the drawing's own units."""
