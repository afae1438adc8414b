import os
import random
import signal
import subprocess
import sys
import time

import pytest

from tests.build import chain
from zumbert.errors import StoreError
from zumbert.store import FileLock, load, save
from zumbert.store.recovery import Recovery, left_behind

KILLS = int(os.environ.get("ZUMBERT_KILLS", "12"))  # 200 in the long version

SAVER = """
import sys
from tests.build import chain
from zumbert.store import save
levels = [(48.0, 47.5)] * 400
print("ready", flush=True)
for i in range(10 ** 6):
    save(chain([(48.0 + i, 47.5 + i)] + levels), sys.argv[1])
"""

HOLDER = """
import sys, time
from pathlib import Path
from tests.build import chain
from zumbert.store import FileLock
from zumbert.store.recovery import Recovery
lock = FileLock(sys.argv[1])
lock.take()
r = Recovery()
r.keep(chain([(48.0, 47.5)]), Path(sys.argv[1]))
print("ready", flush=True)
time.sleep(60)
"""


def started(code, path):
    child = subprocess.Popen(
        [sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE, text=True
    )
    assert child.stdout.readline().strip() == "ready"
    return child


def kill(child):
    child.send_signal(signal.SIGKILL)
    child.wait()
    child.stdout.close()


def test_killing_the_program_while_it_saves_loses_nothing(tmp_path):
    path = tmp_path / "p.zumbert"
    save(chain([(48.0, 47.5)]), path)
    rng = random.Random(4)
    seen = set()
    for _ in range(KILLS):
        child = started(SAVER, path)
        time.sleep(rng.uniform(0.0, 0.12))
        kill(child)
        seen.add(load(path).pipes["P1"].invert_up)
        load(f"{path}.bak") if os.path.exists(f"{path}.bak") else None
    assert len(seen) > 1  # some were killed after a save


def test_the_copy_before_the_last_save_is_kept(tmp_path):
    path = tmp_path / "p.zumbert"
    for level in (47.5, 47.4, 47.3):
        save(chain([(48.0, level)]), path)
    assert load(path).pipes["P1"].invert_down == 47.3
    assert load(f"{path}.bak").pipes["P1"].invert_down == 47.4
    save(chain([(48.0, 47.2)]), path, backup=False)
    assert load(f"{path}.bak").pipes["P1"].invert_down == 47.4


def test_a_kill_between_the_copy_and_the_file_spoils_neither(tmp_path, monkeypatch):
    path = tmp_path / "p.zumbert"
    save(chain([(48.0, 47.5)]), path)
    rename = os.replace

    def stopped(a, b):
        if str(b) == str(path):
            raise OSError(5, "stopped here")  # the copy is another name of the file now
        rename(a, b)

    monkeypatch.setattr(os, "replace", stopped)
    with pytest.raises(StoreError):
        save(chain([(48.0, 47.4)]), path)
    monkeypatch.setattr(os, "replace", rename)
    for level in (47.3, 47.2):
        with open(f"{path}.bak", "rb") as kept:
            held = kept.read()
            save(chain([(48.0, level)]), path)
            kept.seek(0)
            assert kept.read() == held  # whoever reads the old copy is not written over
    assert load(f"{path}.bak").pipes["P1"].invert_down == 47.3
    assert sorted(os.listdir(tmp_path)) == ["p.zumbert", "p.zumbert.bak"]


def test_a_lock_names_its_holder_and_ends_with_it(tmp_path):
    path = tmp_path / "p.zumbert"
    child = started(HOLDER, path)
    mine = FileLock(path)
    holder = mine.take()
    assert holder is not None
    assert holder.host in holder.words
    assert abs(holder.since - time.time()) < 30
    kill(child)
    assert mine.take() is None
    other = FileLock(path)
    assert other.take() is not None
    mine.release()
    assert other.take() is None
    other.release()
    assert os.listdir(tmp_path) == []


def test_work_of_a_killed_window_is_offered_and_that_of_a_living_one_is_not(tmp_path):
    path = tmp_path / "p.zumbert"
    child = started(HOLDER, path)
    assert left_behind() == []
    kill(child)
    [kept] = left_behind()
    assert (kept.name, kept.path) == ("test", path)
    assert kept.load().pipes["P1"].invert_down == 47.5
    kept.forget()
    assert left_behind() == []


def test_a_window_that_closes_leaves_nothing_behind(tmp_path):
    r = Recovery()
    r.keep(chain([(48.0, 47.5)]), None)
    r.end()
    assert left_behind() == []


def test_a_broken_recovery_is_refused_not_raised_through():
    r = Recovery()
    r.keep(chain([(48.0, 47.5)]), None)
    r._lock.release()
    r.file.write_bytes(b"half")
    [kept] = left_behind()
    with pytest.raises(StoreError):
        kept.load()
    r.file.with_suffix(".json").write_text("{")
    assert left_behind() == []


def test_the_lock_of_another_user_who_lets_nobody_write_it_is_a_lock(tmp_path, monkeypatch):
    path = tmp_path / "p.zumbert"
    child = started(HOLDER, path)
    opened = os.open

    def denied(file, flags, *more):
        if str(file).endswith(".lock") and (flags & os.O_RDWR or unreadable):
            raise PermissionError(13, "Permission denied")
        return opened(file, flags, *more)

    monkeypatch.setattr(os, "open", denied)
    unreadable = False
    assert FileLock(path).take() is not None
    unreadable = True
    holder = FileLock(path).take()
    assert holder is not None
    assert holder.user == path.with_name(".p.zumbert.lock").owner()
    kill(child)
    unreadable = False
    mine = FileLock(path)
    assert mine.take() is None  # left by one who is gone: anybody's
    monkeypatch.undo()
    assert FileLock(path).take() is not None
    mine.release()


def test_a_lock_file_lets_others_in_whatever_the_mask_says(tmp_path):
    before = os.umask(0o077)
    try:
        lock = FileLock(tmp_path / "p.zumbert")
        assert lock.take() is None
        assert lock.path.stat().st_mode & 0o777 == 0o666
        lock.release()
    finally:
        os.umask(before)
