"""The stage Checks."""
