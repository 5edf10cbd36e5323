"""The use cases: what a person can ask of a job, a class for each feature."""
