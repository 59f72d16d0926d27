"""The ledger: what broke, was it really that part, and what the record does to machines and shelves."""
