"""How layers are built and ordered: a way for the whole stack, and rules of single layers."""

from typing import Any, Literal

import msgspec

__all__ = ["Build", "Edge", "Join", "LayerRule", "LayerSettings"]

Build = Literal["flush", "carried", "single"]
Edge = Literal["both", "outer", "inner", "centre"]


class Join(msgspec.Struct, frozen=True):
    """Two open ends of centre lines that a curve joins; source coordinates."""

    ink: str
    """Key."""
    first: tuple[float, float]
    last: tuple[float, float]


class LayerRule(msgspec.Struct, frozen=True):
    """What holds for the layer of one ink."""

    ink: str
    """Key."""
    build: Literal["flush", "carried"] | None = None
    """None goes the stack's way."""
    centre_line: bool = False
    """Whether the centre lines of its strokes are wanted too."""
    edge: Edge = "both"
    """Where a line round something is cut, which has two edges."""


class LayerSettings(msgspec.Struct, frozen=True):
    """How layers are built from faces, and their order."""

    build: Build = "flush"
    order: tuple[str, ...] = ()
    """Keys of inks, bottom first; inks that are not named lie below, largest first."""
    rules: tuple[LayerRule, ...] = ()
    """Layers that differ from the stack; one rule an ink."""
    joins: tuple[Join, ...] = ()
    """Open ends of centre lines to join."""

    def rule(self, key: str) -> LayerRule:
        """Give the rule of an ink's layer."""
        return next((rule for rule in self.rules if rule.ink == key), LayerRule(key))

    def with_rule(self, key: str, **changes: Any) -> tuple[LayerRule, ...]:
        """Give the rules with that of one ink changed; one that says nothing is left out."""
        new = msgspec.structs.replace(self.rule(key), **changes)
        kept = [new if rule.ink == key else rule for rule in self.rules]
        kept += [] if new in kept else [new]
        return tuple(rule for rule in kept if rule != LayerRule(rule.ink))

    def way(self, key: str) -> Build:
        """How the layer of an ink is built."""
        return self.rule(key).build or self.build

    @property
    def centre_lines(self) -> tuple[str, ...]:
        """Keys of the inks whose centre lines are wanted, in the order in which they were chosen."""
        return tuple(rule.ink for rule in self.rules if rule.centre_line)

    @property
    def edges(self) -> dict[str, Edge]:
        """Where the lines of inks are cut, by key; those that are cut along both edges left out."""
        return {rule.ink: rule.edge for rule in self.rules if rule.edge != "both"}
