"""Files that tests write."""

import pytest


@pytest.fixture
def files(tmp_path):
    def write(**texts):
        out = {}
        for name, text in texts.items():
            path = tmp_path / name.replace("_", ".")
            path.write_bytes(text if isinstance(text, bytes) else text.encode())
            out[name] = path
        return out

    return write
