"""What each kind of supply is, electrically, here and now."""
