"""Lists of parts, and of what lies on the shelves."""
