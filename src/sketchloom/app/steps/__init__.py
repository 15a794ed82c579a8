"""A folder a step, a file a card: settings as thin widgets; intents become a new recipe."""

from sketchloom.app.steps.base import Step
from sketchloom.app.steps.check import CheckStep
from sketchloom.app.steps.layers import LayersStep
from sketchloom.app.steps.prepare import PrepareStep
from sketchloom.app.steps.send import SendStep
from sketchloom.app.steps.separate import SeparateStep
from sketchloom.app.steps.sheets import SheetsStep
from sketchloom.app.steps.source import SourceStep
from sketchloom.app.steps.tidy import TidyStep
from sketchloom.app.steps.trace import TraceStep

__all__ = [
    "STEPS",
    "CheckStep",
    "LayersStep",
    "PrepareStep",
    "SendStep",
    "SeparateStep",
    "SheetsStep",
    "SourceStep",
    "Step",
    "TidyStep",
    "TraceStep",
]

STEPS: tuple[type[Step], ...] = (
    SourceStep,
    PrepareStep,
    SeparateStep,
    TidyStep,
    TraceStep,
    LayersStep,
    CheckStep,
    SheetsStep,
    SendStep,
)
"""In working order; warp, keys and finder follow."""
