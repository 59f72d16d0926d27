"""Answers are derived values: computed from what they are keyed by, kept in PostgreSQL, found by every process."""
