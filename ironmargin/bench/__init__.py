"""The rig in time: a virtual panel where anything may be tripped."""
