"""The stage Flow."""
