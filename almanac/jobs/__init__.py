"""Long work, done by worker processes: what waits in PostgreSQL's queue is computed behind the pages."""
