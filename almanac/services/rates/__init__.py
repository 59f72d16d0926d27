"""How parts of each kind die: what the Rates tab shows."""
