"""Tests that run in processes of their own, each begun as a copy of one that is ready for them.

A window costs more to make and to give back than most tests take. So one process for each worker
makes it once, and every test gets a copy of that process, which ends with the test: nobody has
touched what it begins with, and nothing stays. Tests that begin a step further, in a stage of the
window, get a copy of a copy that has taken that step.
"""

import os
import pickle
import signal
import traceback
from collections.abc import Callable, Mapping, Sequence
from multiprocessing import Pipe
from multiprocessing.connection import Connection

import pytest
from _pytest.runner import runtestprotocol


class Apart:
    """Runs some of the tests of a session, told by their number in it. A step is named as the
    fixture that asks for it.
    """

    def __init__(
        self,
        items: Sequence[pytest.Item],
        prepare: Callable[[], None],
        steps: Mapping[str, Callable[[], None]],
    ) -> None:
        self._items, self._steps = items, steps
        self._worker, self._process = self._begun(prepare)

    def _begun(self, prepare: Callable[[], None]) -> tuple[Connection, int]:
        """A process that is copied: the way to it, and its number."""
        there, here = Pipe()
        process = os.fork()
        if not process:
            there.close()
            try:
                self._serve(here, prepare)
            except BaseException:
                traceback.print_exc()
            os._exit(1)  # never on into what its parent was doing
        here.close()
        return there, process

    def run(self, item: pytest.Item) -> None:
        """Runs one test and reports it as if it had run here."""
        hook = item.ihook
        hook.pytest_runtest_logstart(nodeid=item.nodeid, location=item.location)
        step = next((name for name in self._steps if name in item.fixturenames), None)  # type: ignore[attr-defined]
        self._worker.send((self._items.index(item), step))
        try:
            told = self._worker.recv()
        except EOFError:
            pytest.exit("the process that window tests are copied from has ended: see above", 3)
        if isinstance(told, int):
            name = signal.Signals(told).name if told in set(signal.Signals) else str(told)
            hook.pytest_runtest_logreport(
                report=_ended(item, f"the process of this test ended by {name}")
            )
        else:
            for data in pickle.loads(told):
                report = item.config.hook.pytest_report_from_serializable(
                    config=item.config, data=data
                )
                hook.pytest_runtest_logreport(report=report)
        hook.pytest_runtest_logfinish(nodeid=item.nodeid, location=item.location)

    def close(self) -> None:
        """Ends the process that is copied."""
        self._worker.close()
        os.waitpid(self._process, 0)

    def _serve(self, here: Connection, prepare: Callable[[], None]) -> None:
        """Copies itself for each test that is asked for, until nobody asks."""
        further: dict[str, Connection] = {}
        ready = False
        while True:
            try:
                number, step = here.recv()
            except EOFError:
                return
            if not ready:
                prepare()
                ready = True
            if step is not None:
                if step not in further:
                    further[step], _ = self._begun(self._steps[step])
                further[step].send((number, None))
                here.send(further[step].recv())
                continue
            copy = os.fork()
            if not copy:
                here.send(_run(self._items[number]))
                os._exit(0)
            _, status = os.waitpid(copy, 0)
            if status:
                here.send(os.WTERMSIG(status) or os.WEXITSTATUS(status))


def _run(item: pytest.Item) -> bytes:
    """Runs a test to its end; its reports."""
    reports = runtestprotocol(item, log=False, nextitem=None)
    return pickle.dumps(
        [
            item.config.hook.pytest_report_to_serializable(config=item.config, report=r)
            for r in reports
        ]
    )


def _ended(item: pytest.Item, why: str) -> pytest.TestReport:
    """The report of a test whose process ended before it."""
    return pytest.TestReport(item.nodeid, item.location, {}, "failed", why, "call")
