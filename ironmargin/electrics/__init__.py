"""Phasors, conductors and the leg-and-neutral network."""
