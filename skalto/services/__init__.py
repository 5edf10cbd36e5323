"""The use cases: bring in a source, show a view, write and measure a sheet."""
