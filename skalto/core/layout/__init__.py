"""Where views go on a sheet, at what scale, and what they do when it changes."""
