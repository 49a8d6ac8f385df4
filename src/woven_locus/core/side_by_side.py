"""Much of the same work on a few threads: for work that lets go of the interpreter, as compiled kernels do."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from typing import TypeVar

Item = TypeVar("Item")
# Two cores are what such a machine has to spare.
THREADS = 2


def never() -> bool:
    """For whoever cannot be stopped."""
    return False


def nobody(_share: float) -> None:
    """For whoever tells no progress."""
    return


def each(
    items: Sequence[Item],
    worker: Callable[[], Callable[[Item], object]],
    stopped: Callable[[], bool] = never,
    progress: Callable[[float], object] = nobody,
    few: int = 1,
) -> bool:
    """Do something with each of the items, in any order; False when it was stopped before the end.

    worker : called once on each thread; makes what is then called with items there, with scratch of its own.
    stopped : asked before each item.  progress : told the share that is done, by the calling thread.
    few : up to so many items are not worth another thread.
    The first error ends the work and is raised here.
    """
    lock = threading.Lock()
    taken = done = 0
    halted = False
    failed: list[BaseException] = []

    def next_item() -> int:
        nonlocal taken, halted
        with lock:
            halted = halted or bool(failed) or stopped()
            if halted or taken == len(items):
                return -1
            taken += 1
            return taken - 1

    def work(tell: bool) -> None:
        nonlocal done
        try:
            act = worker()
            while (at := next_item()) >= 0:
                act(items[at])
                with lock:
                    done += 1
                if tell:
                    progress(done / len(items))
        except BaseException as error:  # noqa: BLE001 - raised again on the calling thread
            failed.append(error)

    threads = min(THREADS, len(items)) if len(items) > few else 1
    others = [threading.Thread(target=work, args=(False,)) for _ in range(threads - 1)]
    for thread in others:
        thread.start()
    work(True)
    for thread in others:
        thread.join()
    if failed:
        raise failed[0]
    if not halted and items:
        progress(1.0)
    return not halted
