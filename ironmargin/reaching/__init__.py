"""How far a setup holds, what size to buy, and many setups at once."""
