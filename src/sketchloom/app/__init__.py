"""The window: Qt Widgets over a model that knows no widget."""
