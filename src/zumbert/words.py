"""Sentences in the language of the user, by gettext; as they stand in the code where there is no catalogue of messages."""

import gettext
from pathlib import Path

_CATALOGUE = gettext.translation("zumbert", Path(__file__).parent / "locale", fallback=True)


def tr(text: str, **values: object) -> str:
    """A sentence in the language of the user, its places in braces filled with values."""
    return _CATALOGUE.gettext(text).format(**values)
