"""What stands in deploy/, run as it is written there."""
