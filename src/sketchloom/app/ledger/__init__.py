"""The ledger: the numbers of every layer, always in view."""

from sketchloom.app.ledger.ledger import Ledger

__all__ = ["Ledger"]
