"""Files to and from plain values: no database, no rules of the job."""
