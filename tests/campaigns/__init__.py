"""Campaigns: long trials, each with one command (``make campaign``), whose figures stand in docs/reliability.md."""
