"""What lies in the store: keys, view lines, what a sheet is composed from, and the job file."""
