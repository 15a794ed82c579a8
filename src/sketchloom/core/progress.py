"""How a stage reports how far it is, and how it is called off."""

from collections.abc import Callable

__all__ = ["Tick", "no_tick"]

Tick = Callable[[float], None]
"""Called by a stage with the share done, 0 to 1; raises `Cancelled` to stop it."""


def no_tick(done: float) -> None:
    """Report to nobody."""
