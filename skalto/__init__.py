"""Skalto: part and assembly models and drawings to PDF at true scale, with the measurement that proves it."""

__version__ = "0.1.0"
