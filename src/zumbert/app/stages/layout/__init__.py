"""The stage Layout."""
