"""What is to be written of a job, and the work that writes it."""
