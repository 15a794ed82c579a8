"""Findings, before and after: what a picture is good for."""

from sketchloom.core.inspect.source import SourceReport, inspect_source

__all__ = ["SourceReport", "inspect_source"]
