"""One file a step: its settings as a thin widget; intents become a new recipe."""

from sketchloom.app.steps.layers import LayersStep
from sketchloom.app.steps.prepare import PrepareStep
from sketchloom.app.steps.send import SendStep
from sketchloom.app.steps.separate import SeparateStep
from sketchloom.app.steps.source import SourceStep
from sketchloom.app.steps.trace import TraceStep

__all__ = ["LayersStep", "PrepareStep", "SendStep", "SeparateStep", "SourceStep", "TraceStep"]
