"""Long work beside the window: it goes on painting, and waits for the result without being held."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtCore import QEventLoop, QObject, Qt, Signal

Result = TypeVar("Result")


class _Done(QObject):
    came = Signal()


def aside(work: Callable[[], Result], *, keys: bool) -> Result:
    """Return what `work` returns, or raise what it raises; it is done on a thread of its own.

    With `keys` the window takes keys and clicks meanwhile; without, they wait.
    """
    found: dict[str, Any] = {}
    done, loop = _Done(), QEventLoop()
    done.came.connect(loop.quit, Qt.ConnectionType.QueuedConnection)

    def run() -> None:
        try:
            found["result"] = work()
        except BaseException as error:  # handed on to whoever waits
            found["error"] = error
        done.came.emit()

    thread = threading.Thread(target=run, name="aside", daemon=True)
    thread.start()
    flags = QEventLoop.ProcessEventsFlag
    loop.exec(flags.AllEvents if keys else flags.ExcludeUserInputEvents)
    thread.join()
    if "error" in found:
        raise found["error"]
    result: Result = found["result"]
    return result
