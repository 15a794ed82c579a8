"""Run work that cannot be called off in a process that can be ended."""

import pickle
import select
import subprocess
import sys
from collections.abc import Callable
from typing import Any

from sketchloom.core.errors import SketchLoomError
from sketchloom.core.progress import Tick, no_tick

__all__ = ["run_apart"]

_EVERY = 0.04
_SERVE = "from sketchloom.core.picture.apart import _serve; _serve()"


def run_apart(work: Callable[..., Any], *values: Any, tick: Tick = no_tick) -> Any:
    """Call a module's function in a process of its own; its last argument is a `Tick`.

    `tick` hears what the function reports, and at least every few
    hundredths of a second; when it raises, the process is ended at once.

    Raises
    ------
    SketchLoomError
        If the process fails or is ended from outside.
    """
    if tick is no_tick:
        return work(*values, no_tick)
    tick(0.0)
    process = subprocess.Popen([sys.executable, "-c", _SERVE], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert process.stdin is not None and process.stdout is not None
    done = 0.0
    try:
        pickle.dump((work, values), process.stdin)
        process.stdin.close()
        while True:
            if not select.select([process.stdout], [], [], _EVERY)[0]:
                tick(done)
                continue
            what, value = pickle.load(process.stdout)
            if what == "done":
                return value
            done = value
            tick(done)
    except (EOFError, OSError, pickle.UnpicklingError):
        raise SketchLoomError("A part of the work ended by itself; free some memory and try again.") from None
    finally:
        process.kill()
        process.wait()
        process.stdout.close()


def _serve() -> None:
    """Do the work that comes in on stdin; stdout carries what it reports and its value."""
    work, values = pickle.load(sys.stdin.buffer)
    out = sys.stdout.buffer

    def tell(what: str, value: Any) -> None:
        pickle.dump((what, value), out)
        out.flush()

    tell("done", work(*values, lambda done: tell("tick", done)))
