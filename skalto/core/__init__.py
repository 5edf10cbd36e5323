"""The rules of the job: pure functions and values, without web, database or files but those handed in."""
