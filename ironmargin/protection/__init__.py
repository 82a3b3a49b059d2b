"""What opens the circuit: breakers with their permitted band."""
