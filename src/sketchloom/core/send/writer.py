"""What every format's writer does: write a page, and read it back."""

from typing import Protocol

from sketchloom.core.cut import CutStack
from sketchloom.core.errors import WriteError
from sketchloom.core.send.page import Page, page_of_layers

__all__ = ["Writer", "files_of", "written"]


class Writer(Protocol):
    """One format.

    Attributes
    ----------
    ending : str
        Of its files, with the dot.
    name : str
        What the window and messages call it.
    lost : str
        What of a page it cannot carry; empty where it carries all.
    """

    ending: str
    name: str
    lost: str

    @property
    def read_by(self) -> str:
        """What reads its files back."""

    def write(self, page: Page) -> bytes:
        """Write a page; the same for the same page."""

    def is_right(self, data: bytes, page: Page) -> bool:
        """Whether a file, read by a reader that did not write it, is what was meant; may raise what readers raise."""


_RAISED = (ValueError, LookupError, TypeError, AttributeError, ArithmeticError, OSError, RuntimeError, SyntaxError)
"""By readers, of what is no file of their format."""


def written(writer: Writer, page: Page) -> bytes:
    """Write a page and read it back.

    Raises
    ------
    WriteError
        If it does not read back as it was meant.
    """
    data = writer.write(page)
    try:
        right = writer.is_right(data, page)
    except _RAISED:
        right = False
    if not right:
        raise WriteError(
            f"The {writer.name} did not read back as it was meant, so nothing was written; please report this job."
        )
    return data


def files_of(writer: Writer, stack: CutStack, each: bool) -> dict[str, bytes]:
    """Write one file for all layers, or one for each, all on the same page; each is read back.

    Returns
    -------
    dict of str to bytes
        By what is put behind the file's name: nothing, or a hyphen and the layer's id.

    Raises
    ------
    WriteError
        If a file does not read back as it was meant.
    """
    parts = [page_of_layers(stack, [cut]) for cut in stack.cuts] if each else []
    pages = {f"-{page.items[0].id}": page for page in parts} if each else {"": page_of_layers(stack)}
    return {name: written(writer, page) for name, page in pages.items()}
