"""What may run together, in which order, what would make it hold, and what decides."""
