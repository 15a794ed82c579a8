"""What can go wrong, each with one plain sentence for the person at the table."""

__all__ = [
    "ArgumentError",
    "Cancelled",
    "JobError",
    "NothingToCutError",
    "PictureError",
    "SketchLoomError",
    "WriteError",
]


class SketchLoomError(Exception):
    """Base of every error that is shown as its message alone."""


class ArgumentError(SketchLoomError):
    """A value that was typed cannot be used."""


class PictureError(SketchLoomError):
    """A picture cannot be read, or is beyond the limits."""


class JobError(SketchLoomError):
    """A job or recipe file cannot be read."""


class WriteError(SketchLoomError):
    """A file cannot be written; nothing of it was left behind."""


class NothingToCutError(SketchLoomError):
    """After clearing the ground no piece is left."""


class Cancelled(Exception):  # noqa: N818 (a request, not an error)
    """The run was called off; results so far stay as they were."""
