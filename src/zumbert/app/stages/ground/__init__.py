"""The stage Ground."""
