"""Use cases of the bench: a job from complaint to closed record."""
