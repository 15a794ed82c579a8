"""The Sheets step."""

from sketchloom.app.steps.sheets.step import SheetsStep

__all__ = ["SheetsStep"]
