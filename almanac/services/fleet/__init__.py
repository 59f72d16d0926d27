"""Machines one by one: what is in them, what happened to them, and keeping them up."""
