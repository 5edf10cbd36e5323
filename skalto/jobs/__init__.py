"""Background work: a huey queue, workers that run each piece in a process of its own, progress, cancelling."""
