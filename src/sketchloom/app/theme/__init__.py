"""Colours, type, icons and the style sheet of the window."""

from sketchloom.app.theme.icons import icon
from sketchloom.app.theme.style import Theme, theme
from sketchloom.app.theme.tokens import DARK, LIGHT, Tokens

__all__ = ["DARK", "LIGHT", "Theme", "Tokens", "icon", "theme"]
