"""The tools there are, by name, in the order in which they are offered. Another tool is a class here and a line in this list."""

from __future__ import annotations

from .arranging import Arrange
from .brushes import MaskBrush, ShapeBrush
from .colours import ColourBox, ColourEllipse, ColourLine, Fill, Gradient, Paint, Picker
from .dividing import Divide
from .drawing import Ellipse, Freehand, Polygon, Rectangle
from .edges import SheetEdges
from .framing import Frame
from .hand import Hand
from .lettering import Letter
from .nearness import Nearness
from .pen import Pen
from .points import Points
from .taking import Alike, Cling, Scribble

TOOLS: dict[str, type[Hand]] = {
    tool.name: tool
    for tool in (
        Arrange,
        Rectangle,
        Ellipse,
        Polygon,
        Freehand,
        Cling,
        Points,
        ShapeBrush,
        Divide,
        MaskBrush,
        Alike,
        Scribble,
        Pen,
        Nearness,
        Paint,
        Fill,
        ColourLine,
        ColourBox,
        ColourEllipse,
        Gradient,
        Picker,
        Letter,
        Frame,
        SheetEdges,
    )
}
