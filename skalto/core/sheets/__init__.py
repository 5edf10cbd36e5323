"""Sheets: what lies on them, as written down and as composed into artwork."""
