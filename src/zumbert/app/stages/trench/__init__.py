"""The stage Trench."""
