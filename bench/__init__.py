"""Benchmarks: each prints a ratio against a reference that ran beside it. ``python -m bench [NAME …]``."""
