"""Attacks on a product of one's own on loopback: kills, races, silent connections, hostile files, random requests. For development."""
