"""What was measured: held beside what was predicted, and what it corrects."""
