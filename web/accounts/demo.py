"""The demo's account."""

DEMO_USER = "demo"
