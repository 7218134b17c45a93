"""The tools there are, by name, in the order in which they are offered. Another tool is a class here and a line in this list."""

from __future__ import annotations

from .arranging import Arrange
from .brushes import MaskBrush, ShapeBrush
from .dividing import Divide
from .drawing import Ellipse, Freehand, Polygon, Rectangle
from .edges import SheetEdges
from .framing import Frame
from .hand import Hand
from .points import Points

TOOLS: dict[str, type[Hand]] = {
    tool.name: tool for tool in (Arrange, Rectangle, Ellipse, Polygon, Freehand, Points, ShapeBrush, Divide, MaskBrush, Frame, SheetEdges)
}
