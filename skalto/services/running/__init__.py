"""A server or a worker as a running process: what it loads, and what it holds."""
