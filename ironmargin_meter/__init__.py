"""A power meter that speaks Modbus TCP: its register map, and a simulated one for the demo."""
