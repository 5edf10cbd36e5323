"""What is done with a job: use cases, tasks, results, and the command line's own."""
