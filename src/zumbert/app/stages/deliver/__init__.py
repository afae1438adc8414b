"""The stage Deliver."""
