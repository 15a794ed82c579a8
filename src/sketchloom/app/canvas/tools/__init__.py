"""Tools that draw on the canvas, one a file."""

from sketchloom.app.canvas.tools.across import AcrossTool
from sketchloom.app.canvas.tools.axis import AxisTool
from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.canvas.tools.bridges import BridgeTool
from sketchloom.app.canvas.tools.brush import BrushTool, LineTool
from sketchloom.app.canvas.tools.choose import ChooseTool, Chosen
from sketchloom.app.canvas.tools.corners import CornersTool
from sketchloom.app.canvas.tools.curved import CurvedOutlineTool
from sketchloom.app.canvas.tools.freehand import FreehandTool, HandLine
from sketchloom.app.canvas.tools.join import JoinTool
from sketchloom.app.canvas.tools.lay import LayTool, Moved
from sketchloom.app.canvas.tools.nodes import NodeTool
from sketchloom.app.canvas.tools.outline import OutlineTool
from sketchloom.app.canvas.tools.pick import PickTool
from sketchloom.app.canvas.tools.place import PlaceTool
from sketchloom.app.canvas.tools.rectangle import RectangleTool
from sketchloom.app.canvas.tools.seams import SeamAt, SeamMoved, SeamTool
from sketchloom.app.canvas.tools.stretches import STRETCHES, EdgeBrush, StretchTool

__all__ = [
    "STRETCHES",
    "AcrossTool",
    "AxisTool",
    "BridgeTool",
    "BrushTool",
    "ChooseTool",
    "Chosen",
    "CornersTool",
    "CurvedOutlineTool",
    "EdgeBrush",
    "FreehandTool",
    "HandLine",
    "JoinTool",
    "LayTool",
    "LineTool",
    "Moved",
    "NodeTool",
    "OutlineTool",
    "PickTool",
    "PlaceTool",
    "RectangleTool",
    "SeamAt",
    "SeamMoved",
    "SeamTool",
    "StretchTool",
    "Tool",
]
