"""How long: fuel, battery, assist, cost, noise."""
