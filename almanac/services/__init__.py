"""The use cases: load from the store, call the core, write back. Only the edges commit."""
