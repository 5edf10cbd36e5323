"""Sheets and their views as they are written down in a job; all values frozen."""
