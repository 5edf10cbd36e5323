"""Artwork out: one folder or module a format."""
