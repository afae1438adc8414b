"""`python -m zumbert`, and the entry point `zumbert`."""

import sys

from zumbert.cli import main


def run() -> None:
    """Runs the command line and ends with its exit status."""
    sys.exit(main())


if __name__ == "__main__":
    run()
