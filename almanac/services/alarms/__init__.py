"""Failures that run ahead of what was expected: charts, alarms, and what was decided about them."""
