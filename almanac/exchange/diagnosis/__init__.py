"""The knowledge of symptoms as a file: standard.yaml ships with the application, a company edits its own copy."""
