"""Lists of what was bought, and of what is still to come."""
