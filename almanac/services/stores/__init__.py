"""What is done with stock: every act is on record, moves what it says in one transaction, and can be undone by another."""
