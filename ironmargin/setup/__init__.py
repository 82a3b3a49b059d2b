"""What is asked: the setup's frozen dataclasses, their reading, checking, writing and schema."""
