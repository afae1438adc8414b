"""Saving and loading a project, and keeping its work safe."""

from zumbert.store.file import load, save
from zumbert.store.lock import FileLock, Holder

__all__ = ["FileLock", "Holder", "load", "save"]
