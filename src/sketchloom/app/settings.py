"""What the program remembers between starts."""

from pathlib import Path
from typing import Annotated, Literal

import msgspec
from platformdirs import user_config_path

from sketchloom.core.errors import WriteError
from sketchloom.core.paper import Paper
from sketchloom.core.send import write_whole
from sketchloom.core.threads import MOST_THREADS

__all__ = ["CHOICES", "Settings", "load_settings", "save_settings"]

CHOICES = ("theme", "unit", "threads", "stock", "cutter", "paper", "folder", "send_folder")
"""Settings that are chosen in Preferences, and go into the file of a workshop."""


class Settings(msgspec.Struct, frozen=True):
    """Choices that belong to the person, not to the job."""

    started_before: bool = False
    theme: Literal["light", "dark"] | None = None
    unit: Literal["mm", "cm", "in"] = "mm"
    recent: tuple[str, ...] = ()
    size: tuple[int, int] | None = None
    """Of the window when it was closed last, px."""
    last: tuple[str, ...] = ()
    """Files that were open when the window was closed last, the one in hand first."""
    threads: Annotated[int, msgspec.Meta(ge=0, le=MOST_THREADS)] = 0
    """On one picture; 0 is one a core."""
    stock: str = ""
    """Name of the stock that a new job begins with; empty for any."""
    cutter: str = ""
    """Name of its cutter."""
    paper: Paper = "a4"
    folder: str = ""
    """Where pictures and jobs are looked for; empty for where the last one was."""
    send_folder: str = ""
    """Where files for cutters go."""
    folds: tuple[tuple[str, bool], ...] = ()
    """Cards that were folded, or unfolded, by hand: step and card, and whether it is folded."""


def _file() -> Path:
    return user_config_path("sketch-loom", appauthor=False) / "settings.json"


def load_settings() -> Settings:
    """Read them; defaults where there are none or they cannot be read."""
    try:
        return msgspec.json.decode(_file().read_bytes(), type=Settings)
    except (OSError, msgspec.DecodeError):
        return Settings()


def save_settings(settings: Settings) -> None:
    """Write them; a folder that cannot be written to loses only the choices."""
    try:
        _file().parent.mkdir(parents=True, exist_ok=True)
        write_whole(_file(), msgspec.json.encode(settings))
    except (OSError, WriteError):
        return
