"""Second implementations: slow and obvious, to hold the fast ones against."""
