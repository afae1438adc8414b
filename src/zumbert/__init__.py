"""Zumbert: storm pipe runs along roads, their levels, rules and trenches."""

__version__ = "0.1.0"
