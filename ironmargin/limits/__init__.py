"""The ledger of limits: every limit once, one module each, asked by every screen and command."""
