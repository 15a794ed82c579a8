"""The `sketch-loom` command."""

import sys
from collections.abc import Sequence

import click
import typer

from sketchloom import __version__
from sketchloom.cli.trace import trace
from sketchloom.core.errors import NothingToCutError, SketchLoomError

__all__ = ["main"]

BAD, NOTHING = 2, 3

commands = typer.Typer(
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="Pictures in, layered cut files out. Without a command it opens the window: "
    "sketch-loom [PICTURE or JOB.loom], or sketch-loom --demo.",
)
commands.command("trace")(trace)


@commands.callback(invoke_without_command=True)
def _top(
    demo: bool = typer.Option(False, "--demo", help="Open the window with the demo job."),
    version: bool = typer.Option(False, "--version", help="Show the version."),
) -> None:
    """Stand for the options that come without a command; `main` acts on them."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; return the exit code.

    0 when all went well, 2 for what cannot be read, used or written, 3 where
    nothing is left to cut. A failure is one sentence on stderr.
    """
    words = list(sys.argv[1:] if arguments is None else arguments)
    if words == ["--version"]:
        print(f"sketch-loom {__version__}")
        return 0
    if not words or words[0] == "--demo" or not (words[0].startswith("-") or words[0] in _names()):
        return _open_window(words)
    try:
        commands(words, standalone_mode=False)
    except click.exceptions.Exit as leaving:
        return leaving.exit_code
    except click.exceptions.Abort:
        return _say("Stopped.", 130)
    except click.ClickException as error:
        return _say(" ".join(error.format_message().split()), BAD)
    except NothingToCutError as error:
        return _say(str(error), NOTHING)
    except SketchLoomError as error:
        return _say(str(error), BAD)
    except KeyboardInterrupt:
        return _say("Stopped.", 130)
    except MemoryError:
        return _say("This needs more memory than is free; take a smaller picture.", BAD)
    return 0


def _names() -> set[str]:
    return {str(command.name) for command in commands.registered_commands}


def _say(sentence: str, code: int) -> int:
    print(sentence, file=sys.stderr)
    return code


def _open_window(words: list[str]) -> int:
    demo = "--demo" in words
    rest = [word for word in words if word != "--demo"]
    if len(rest) > 1 or (rest and (demo or rest[0].startswith("-"))):
        return _say(f"“{rest[-1]}” is one word too many; see sketch-loom --help.", BAD)
    try:
        from sketchloom.app.start import open_window
    except ImportError as error:
        return _say(f"The window cannot open because a system library is missing ({error}); see the README.", BAD)
    return open_window(rest[0] if rest else None, demo)
