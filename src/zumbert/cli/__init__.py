"""The command line: the same work without a window."""

from zumbert.cli.main import main

__all__ = ["main"]
