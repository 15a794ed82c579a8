"""What the program remembers between starts."""

from pathlib import Path

import msgspec
from platformdirs import user_config_path

from sketchloom.core.errors import WriteError
from sketchloom.core.send import write_whole

__all__ = ["Settings", "load_settings", "save_settings"]


class Settings(msgspec.Struct, frozen=True):
    """Choices that belong to the person, not to the job."""

    started_before: bool = False
    theme: str | None = None
    unit: str = "mm"
    recent: tuple[str, ...] = ()
    size: tuple[int, int] | None = None
    """Of the window when it was closed last, px."""
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
