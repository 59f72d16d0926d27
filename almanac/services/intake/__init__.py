"""Lists as the company has them: understood, held against what is on record, and applied as a difference that can be undone."""
