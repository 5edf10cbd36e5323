"""What the command line does: a job built in memory, that goes the same way as the browser's."""
