"""Orders to suppliers: drafted, approved, sent, answered, received, cancelled, printed."""
