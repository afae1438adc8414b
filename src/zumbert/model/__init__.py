"""The saved records."""
