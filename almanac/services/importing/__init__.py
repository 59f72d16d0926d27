"""A company's own data from CSV files: a preview with every fault by row and column, then all of it or nothing."""
