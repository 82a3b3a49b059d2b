"""A power meter on the wire, by Modbus TCP or MQTT: its maps, and a simulated one for the demo."""
