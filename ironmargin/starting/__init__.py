"""The start: motors against a supply, in time."""
