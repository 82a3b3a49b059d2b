"""What a phone hears, sees and a hand feels, turned into readings of the log with their spread."""
