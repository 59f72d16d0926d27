"""What would follow if the fleet were changed: the data stay as they are."""
