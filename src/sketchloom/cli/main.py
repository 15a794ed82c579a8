"""The `sketch-loom` command."""

import difflib
import gc
import importlib
import sys
from collections.abc import Sequence

import click

from sketchloom import __version__
from sketchloom.core.errors import NothingToCutError, SketchLoomError
from sketchloom.memory import keep_freed_memory

__all__ = ["main"]

BAD, NOTHING, STOPPED = 2, 3, 130
_KEPT = 1 << 30
"""Bytes of freed memory that a command keeps for its next arrays."""
_COMMANDS = {
    "trace": "sketchloom.cli.trace:trace",
    "inspect": "sketchloom.cli.inspect:inspect_command",
    "prepare": "sketchloom.cli.prepare:prepare_command",
    "sheets": "sketchloom.cli.sheets:sheets_command",
    "send": "sketchloom.cli.send:send_command",
    "batch": "sketchloom.cli.batch:batch_command",
    "check": "sketchloom.cli.check:check_command",
}


class _Commands(click.Group):
    """Imports a command when it is called, so that the others cost nothing."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(_COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in _COMMANDS:
            return None
        module, name = _COMMANDS[cmd_name].split(":")
        command: click.Command = getattr(importlib.import_module(module), name)
        return command


@click.group(cls=_Commands, invoke_without_command=True)
@click.version_option(__version__, message="sketch-loom %(version)s")
@click.option("--demo", is_flag=True, help="Open the window with the demo job.")
def commands(demo: bool) -> None:
    """Pictures in, layered cut files out.

    Without a command it opens the window: sketch-loom [PICTURE or JOB.loom],
    or sketch-loom --demo.
    """


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; return the exit code.

    0 when all went well, 2 for what cannot be read, used or written, 3 where
    nothing is left to cut. A failure is one sentence on stderr.
    """
    words = list(sys.argv[1:] if arguments is None else arguments)
    if any("\0" in word for word in words):
        return _say("There is no file of such a name; check it.", BAD)
    if not words or words[0] == "--demo" or not (words[0].startswith("-") or words[0] in _COMMANDS):
        return _open_window(words)
    keep_freed_memory(_KEPT)
    try:
        code = commands.main(words, prog_name="sketch-loom", standalone_mode=False)
    except click.exceptions.Exit as leaving:
        return leaving.exit_code
    except (click.exceptions.Abort, KeyboardInterrupt):
        return _say("Stopped.", STOPPED)
    except click.ClickException as error:
        return _say(" ".join(error.format_message().split()), BAD)
    except NothingToCutError as error:
        return _say(str(error), NOTHING)
    except SketchLoomError as error:
        return _say(str(error), BAD)
    except MemoryError:
        return _say("This needs more memory than is free; take a smaller picture.", BAD)
    return code if isinstance(code, int) else 0


def _say(sentence: str, code: int) -> int:
    shown = "".join(sign if sign.isprintable() else repr(sign)[1:-1] for sign in sentence)  # names may hold any sign
    click.echo(shown.encode("utf-8", "replace").decode("utf-8"), err=True)
    return code


def _open_window(words: list[str]) -> int:
    demo = "--demo" in words
    rest = [word for word in words if word != "--demo"]
    if rest and not rest[0].startswith("-") and "." not in rest[0] and "/" not in rest[0]:
        meant = difflib.get_close_matches(rest[0], _COMMANDS, 1)
        if meant:
            return _say(f"“{rest[0]}” is no command; did you mean sketch-loom {meant[0]}?", BAD)
        if len(rest) > 1:
            return _say(f"“{rest[0]}” is no command; there are {', '.join(_COMMANDS)}: see sketch-loom --help.", BAD)
    if len(rest) > 1 or (rest and (demo or rest[0].startswith("-"))):
        return _say(f"“{rest[-1]}” is one word too many; see sketch-loom --help.", BAD)
    gc.disable()  # until the window stands: what is made by then stays, and looking through it is for nothing
    try:
        from sketchloom.app.start import open_window
    except ImportError as error:
        return _say(f"The window cannot open because a system library is missing ({error}); see the README.", BAD)
    return open_window(rest[0] if rest else None, demo)
