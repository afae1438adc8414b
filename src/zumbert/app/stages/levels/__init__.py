"""The stage Levels."""
