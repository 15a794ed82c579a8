"""The page of the logbook."""

from sketchloom.app.logbook.page import LogbookPage

__all__ = ["LogbookPage"]
