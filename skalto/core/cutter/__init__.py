"""The stand-in cutter: a small machine that runs a finished file, and nothing else, and shows what falls out."""
