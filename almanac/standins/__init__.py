"""Simulated stand-ins for outside devices, so that a whole job runs in a demo and in tests."""
