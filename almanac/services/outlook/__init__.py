"""The outlook: from the fleet, its log and the shelves to what runs short, when, and what to order by which day."""
