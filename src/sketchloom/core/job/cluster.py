"""A batch on an existing Dask scheduler: pictures travel, or lie where workers see them too; files come back."""

import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import sketchloom
from sketchloom.core.errors import ArgumentError, PictureError, SketchLoomError
from sketchloom.core.job.batch import BatchSettings, Made, Row, Task, finished, make
from sketchloom.core.opening import read_plain

__all__ = ["rows_on_cluster"]

_PATIENCE = 10.0
"""s that a scheduler is waited for."""
_AHEAD = 2
"""Pictures a worker that are on their way at a time."""
_Seen = tuple[str, int, int]
"""Path, bytes, and when it was changed, ns: by all three a worker knows that it sees the same file."""
_NOT_SEEN = "not seen"


def _on_worker(name: str, seen: _Seen, data: bytes | None, settings: BatchSettings, version: str) -> Made:
    """On a worker: make the files of a picture, of its bytes, or of the file that lies where all see it."""
    if version != sketchloom.__version__:
        return Made("failed", f"A worker has Sketch Loom {sketchloom.__version__}, this is {version}; make them alike.")
    if data is not None:
        return make(lambda: data, name, settings)
    path = Path(seen[0])
    try:
        there = path.stat()
    except (OSError, ValueError):
        return Made(_NOT_SEEN)
    if (there.st_size, there.st_mtime_ns) != seen[1:]:
        return Made(_NOT_SEEN)
    return make(lambda: read_plain(path, PictureError), name, settings)


def rows_on_cluster(tasks: Sequence[Task], settings: BatchSettings, out: Path, address: str) -> Iterator[Row]:
    """Do tasks on the workers of a scheduler, and give their rows as they are done.

    Files are written here, so that workers need no place of their own; they
    are those that this machine would make. A worker that dies costs nothing
    but time, unless one picture ends several.

    Parameters
    ----------
    tasks : sequence of Task
    settings : BatchSettings
    out : Path
    address : str
        Of the scheduler, such as ``tcp://10.0.0.5:8786``.

    Raises
    ------
    ArgumentError
        If no scheduler answers there, or Dask is not installed.
    """
    try:
        from distributed import Client
    except ImportError:
        raise ArgumentError(
            "Work on a cluster needs Dask: install sketch-loom with its extra, sketch-loom[cluster]."
        ) from None
    try:
        client = Client(address, timeout=_PATIENCE, set_as_default=False)
    except (OSError, ValueError, TimeoutError):
        raise ArgumentError(f"No Dask scheduler answers at {address[:80]}.") from None
    try:
        yield from _Cluster(client, settings, out).rows(tasks)
    finally:
        client.close(timeout=_PATIENCE)


class _Cluster:
    def __init__(self, client: Any, settings: BatchSettings, out: Path) -> None:
        self._client, self._settings, self._out = client, settings, out
        self._travel = False
        """Whether workers do not see what is seen here, as one has told."""

    def rows(self, tasks: Sequence[Task]) -> Iterator[Row]:
        """Keep workers busy without sending all at once."""
        from distributed import as_completed

        todo, running = list(reversed(tasks)), dict[Any, tuple[Task, float]]()
        ended = as_completed(loop=self._client.loop)
        while todo or running:
            while todo and len(running) < self._most():
                task, begun = todo.pop(), time.perf_counter()
                future = self._sent(task, self._travel)
                if isinstance(future, Made):
                    yield finished(task, future, self._out, begun)
                    continue
                running[future] = task, begun
                ended.add(future)
            if not running:
                continue
            future = next(ended)
            task, begun = running.pop(future)
            made = self._made(future)
            if made.result == _NOT_SEEN:
                self._travel = True
                again = self._sent(task, travel=True)
                if not isinstance(again, Made):
                    running[again] = task, begun
                    ended.add(again)
                    continue
                made = again
            yield finished(task, made, self._out, begun)

    def _most(self) -> int:
        return max(1, _AHEAD * len(self._client.scheduler_info(n_workers=-1)["workers"]))

    def _sent(self, task: Task, travel: bool) -> Any:
        """Send a picture to a worker, as it lies or as bytes; what cannot be read here is made of nothing."""
        try:
            there = task.picture.stat()
            seen = str(task.picture.absolute()), there.st_size, there.st_mtime_ns
            data = read_plain(task.picture, PictureError) if travel else None
        except SketchLoomError as error:
            return Made("failed", str(error))
        except (OSError, ValueError):
            return make(lambda: read_plain(task.picture, PictureError), task.picture.name, self._settings)
        return self._client.submit(
            _on_worker, task.picture.name, seen, data, self._settings, sketchloom.__version__, pure=False
        )

    def _made(self, future: Any) -> Made:
        from distributed import KilledWorker

        try:
            made: Made = future.result(timeout=_PATIENCE)
        except KilledWorker:
            return Made("failed", "Each worker that worked on it ended; most likely it takes too much memory.")
        except Exception as error:  # whatever a cluster does, the others go on
            cause = " ".join(f"{type(error).__name__}: {error}".split())[:120]
            return Made("failed", f"The cluster lost it ({cause}).")
        finally:
            future.release()
        return made
