"""SVG files as drawings: resolved by a renderer's own normaliser, then read as paths, letters and pictures."""
