"""Saving and loading a project."""

from zumbert.store.file import load, save

__all__ = ["load", "save"]
