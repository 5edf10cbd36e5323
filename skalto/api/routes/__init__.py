"""Routes, a module for each feature: whatever has a ``router`` is served."""
