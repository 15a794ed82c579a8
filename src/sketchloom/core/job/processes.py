"""A batch over processes: one a core, each with its share of the memory; one that dies costs its picture alone."""

import os
import resource
from collections.abc import Callable, Generator, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, wait
from pathlib import Path

from sketchloom.core.job.batch import BatchSettings, Row, Task, do_task
from sketchloom.core.threads import use_threads

__all__ = ["rows_of_batch", "usual_jobs"]

_LEAST_BYTES = 1_500_000_000
"""Of a process, however many there are."""
_SHARE = 0.8
"""Of the memory that is free, which all processes take together."""
_ONE_THREAD = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS")
_LOOK = 0.2
"""s between looks at whether rows are still wanted."""
_DIED = (
    "The process that worked on it was ended by the system, most likely as it took too much memory; take it by itself."
)


def usual_jobs() -> int:
    """A process a core that may be used."""
    return max(1, len(os.sched_getaffinity(0)))


def rows_of_batch(
    tasks: Sequence[Task],
    settings: BatchSettings,
    out: Path,
    jobs: int,
    apart: bool = False,
    alive: Callable[[], object] = lambda: None,
) -> Iterator[Row]:
    """Do tasks and give their rows as they are done, in the order in which they end.

    What leaves off asking for rows ends the processes; each picture has all
    of its files by then, or none.

    Parameters
    ----------
    tasks : sequence of Task
    settings : BatchSettings
    out : Path
    jobs : int
        Processes; with one, all is done in this one.
    apart : bool
        Whether one is a process of its own too.
    alive : callable
        Called a few times a second while rows are waited for; what it raises ends all.
    """
    if jobs <= 1 and not apart:
        yield from (do_task(task, settings, out) for task in tasks)
        return
    left = yield from _done_together(tasks, settings, out, max(1, jobs), alive)
    for task in left:  # one of them ended its process: which, is told by doing each by itself
        again = yield from _done_together([task], settings, out, 1, alive)
        if again:
            yield Row(task.told, "failed", sentence=_DIED)


def _done_together(
    tasks: Sequence[Task], settings: BatchSettings, out: Path, jobs: int, alive: Callable[[], object]
) -> Generator[Row, None, list[Task]]:
    """Rows of tasks; returns those that were not done, as a process died."""
    from concurrent.futures.process import BrokenProcessPool, ProcessPoolExecutor  # not needed to start
    from multiprocessing import get_context

    most = max(_LEAST_BYTES, int(_free_bytes() * _SHARE / jobs))
    todo, running = list(reversed(tasks)), dict[Future[Row], Task]()
    left: list[Task] = []
    before = {name: os.environ.get(name) for name in _ONE_THREAD}
    os.environ.update(dict.fromkeys(_ONE_THREAD, "1"))
    pool = ProcessPoolExecutor(jobs, get_context("spawn"), _begin, (most,))
    try:
        while todo or running:
            while todo and len(running) < 2 * jobs:
                task = todo.pop()
                running[pool.submit(do_task, task, settings, out)] = task
            ended, _ = wait(running, _LOOK, FIRST_COMPLETED)
            alive()
            for future in ended:
                task = running.pop(future)
                try:
                    yield future.result()
                except BrokenProcessPool:
                    left.append(task)
            if left:
                return [*left, *running.values(), *reversed(todo)]
    finally:
        for process in tuple((pool._processes or {}).values()) if running else ():
            process.terminate()
        pool.shutdown(wait=False, cancel_futures=True)
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value
    return left


def _begin(most: int) -> None:
    """On a process: it takes no more memory than its share, and works on one core."""
    resource.setrlimit(resource.RLIMIT_DATA, (most, resource.getrlimit(resource.RLIMIT_DATA)[1]))
    use_threads(1)


def _free_bytes() -> int:
    return os.sysconf("SC_AVPHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
