"""What lasts: jobs and their history in SQLite, blobs beside it."""
