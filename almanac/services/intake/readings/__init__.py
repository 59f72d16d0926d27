"""Lists of readings."""
