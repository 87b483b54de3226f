"""The demo project."""
