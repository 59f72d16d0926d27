"""Model pages as files: one open YAML format."""
