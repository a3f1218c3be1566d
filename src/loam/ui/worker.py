"""Long computations off the window's thread; a newer request replaces an older one."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import (
    QCoreApplication,
    QEvent,
    QObject,
    QRunnable,
    QThreadPool,
    QTimer,
    pyqtSignal,
)

from loam.core.errors import LoamError, PartFailed
from loam.ui.log import LOG

SWITCH_S = 0.0005


class Cancelled(Exception):
    """Raised inside a job that nobody waits for any more."""


def failure_of(error: BaseException) -> PartFailed:
    """Return what is said where the answer of a part that failed would stand."""
    return PartFailed(
        f"This could not be worked out: Loam failed at it ({type(error).__name__}).",
        todo="The rest stands; please keep the report of the fault.",
    )


class _Post(QObject):
    """Carries results from a worker thread to the window's."""

    done = pyqtSignal(str, int, object, object)


class _Job(QRunnable):
    def __init__(self, key: str, number: int, act: Callable[[], Any], post: _Post) -> None:
        super().__init__()
        self._key, self._number, self._act, self._post = key, number, act, post

    def run(self) -> None:
        try:
            result, error = self._act(), None
        except Exception as caught:
            result, error = None, caught
            if not isinstance(caught, LoamError | Cancelled):
                LOG.error("the part %s failed: %s", self._key, type(caught).__name__)
        self._post.done.emit(self._key, self._number, result, error)


_Aside = tuple[
    str,
    Callable[[Callable[[float], None]], Any],
    Callable[[Any], None],
    Callable[[LoamError], None],
]


class Jobs(QObject):
    """Runs jobs one after the other on one worker thread.

    ``idle`` is emitted when the last job has been answered.
    """

    idle = pyqtSignal()
    progress = pyqtSignal(str, float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        # Painting calls back into Python often, and each call waits for the worker to let go:
        # with the default of 5 ms the window stands still for seconds beside a busy worker.
        sys.setswitchinterval(SWITCH_S)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._post = _Post()
        self._post.done.connect(self._answer)
        self._number = 0
        self._latest: dict[str, int] = {}
        self._told: dict[int, tuple[Callable[[Any], None], Callable[[LoamError], None]]] = {}
        self._staying: set[int] = set()
        self._aside: _Aside | None = None
        self._waiting = False

    def start_aside(
        self,
        key: str,
        act: Callable[[Callable[[float], None]], Any],
        done: Callable[[Any], None],
        failed: Callable[[LoamError], None],
    ) -> None:
        """Run ``act`` while nothing else is asked: it stops for any other job and begins anew.

        ``act`` takes what it calls with the share done, where it is stopped; one such job at most.
        """
        self._aside = (key, act, done, failed)
        self._run_aside()

    def _run_aside(self) -> None:
        if self._aside is None:
            return
        self._waiting = False
        key, act, done, failed = self._aside
        tell = self.teller(key)
        self.start(key, lambda: act(tell), done, failed, painted=True)

    def _stand_back(self, key: str) -> None:
        """Another job is asked for: what runs aside waits until nothing else is to be done."""
        aside = self._aside[0] if self._aside is not None else key
        if key != aside and self._latest.get(aside) in self._told:
            self._latest.pop(aside, None)
            self._waiting = True

    def start(
        self,
        key: str,
        act: Callable[[], Any],
        done: Callable[[Any], None],
        failed: Callable[[LoamError], None],
        *,
        painted: bool = False,
        stays: bool = False,
    ) -> None:
        """Run ``act`` on the worker; only the latest job of a key is answered.

        A job that ``stays`` is answered also when the views are built anew meanwhile.

        ``failed`` takes errors meant for the user; any other is told it as a `PartFailed`, and
        raised in the window. A job that
        waits until all is ``painted`` does not make the window share its time with the worker.
        """
        self._stand_back(key)
        self._number += 1
        self._latest[key] = self._number
        self._told[self._number] = (done, failed)
        if stays:
            self._staying.add(self._number)
        number, job = self._number, _Job(key, self._number, act, self._post)
        if painted:
            QTimer.singleShot(0, lambda: self._begin(number, job))
        else:
            self._pool.start(job)

    def _begin(self, number: int, job: _Job) -> None:
        for kind in (QEvent.Type.LayoutRequest, QEvent.Type.UpdateRequest):
            QCoreApplication.sendPostedEvents(None, kind.value)
        if number in self._told:  # the window may be closed by now
            self._pool.start(job)

    def teller(self, key: str) -> Callable[[float], None]:
        """Return what the next job of a key calls with the share done; it stops a stale job."""
        number = self._number + 1

        def tell(share: float) -> None:
            if self._latest.get(key) != number:
                raise Cancelled
            self.progress.emit(key, share)

        return tell

    def cancel(self, key: str) -> None:
        """Leave the latest job of a key unanswered."""
        self._latest.pop(key, None)
        if self._aside is not None and self._aside[0] == key:
            self._aside, self._waiting = None, False

    def leave_behind(self) -> None:
        """Answer none of the jobs that views asked for: those views are going away."""
        self._aside, self._waiting = None, False
        for key, number in list(self._latest.items()):
            if number not in self._staying:
                del self._latest[key]

    def is_busy(self, key: str) -> bool:
        """Whether the answer to the latest job of a key is still to come."""
        waits = self._waiting and self._aside is not None and self._aside[0] == key
        return waits or self._latest.get(key) in self._told

    @property
    def busy(self) -> bool:
        """Whether an answer is still to come."""
        return bool(self._told)

    def _answer(self, key: str, number: int, result: object, error: object) -> None:
        if number not in self._told:  # the window was closed meanwhile
            return
        done, failed = self._told.pop(number)
        self._staying.discard(number)
        try:
            if self._latest.get(key) == number and not isinstance(error, Cancelled):
                if isinstance(error, LoamError):
                    failed(error)
                elif isinstance(error, Exception):
                    failed(failure_of(error))
                    raise error
                else:
                    done(result)
        finally:
            if not self._told and self._waiting:
                self._run_aside()
            elif not self._told:
                self.idle.emit()

    def stop(self) -> None:
        """Drop what is waiting, stop what runs at its next step, and wait for that."""
        self._latest.clear()
        self._aside, self._waiting = None, False
        self._pool.clear()
        self._pool.waitForDone()
        self._told.clear()
        self._staying.clear()
