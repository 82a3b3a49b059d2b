"""What each kind of load is, electrically; nothing here knows of supplies."""
