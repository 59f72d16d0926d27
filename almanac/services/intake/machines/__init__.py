"""Lists of machines."""
