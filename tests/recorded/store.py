"""Where recordings are kept, a line for each part."""

import json
from pathlib import Path

FOLDER = Path(__file__).parent / "kept"


def file_of(name):
    """The file of a recording."""
    return FOLDER / f"{name.replace(' ', '-')}.json"


def text_of(value, deep=3):
    """JSON with a line for each part, so that a change of one is one line."""
    if not deep or not value or not isinstance(value, (dict, list)):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, dict):
        return (
            "{\n"
            + ",\n".join(
                f"{json.dumps(k, ensure_ascii=False)}: {text_of(v, deep - 1)}"
                for k, v in value.items()
            )
            + "\n}"
        )
    return "[\n" + ",\n".join(text_of(v, deep - 1) for v in value) + "\n]"
