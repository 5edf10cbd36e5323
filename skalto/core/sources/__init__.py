"""Sources: files that are brought in, models and drawings, each by the reader of its format."""
