"""The whole sheet cropped, extended or scaled."""

from __future__ import annotations

from dataclasses import replace

from ..picture.resample import resize_picture
from .dividing import draggable
from .division import Division
from .frame import Rect
from .layers import Draw
from .masks import Mask, scaled_mask
from .outline import Box, Outline
from .sheet import Sheet, check_size


def _division(d: Division, box: Box) -> Division:
    return replace(d, outline=d.outline.with_box(box)).settled()


def framed(sheet: Sheet, rect: Rect) -> Sheet:
    """The sheet cut to, or extended to, a rectangle of its own coordinates; nothing is lost that lies outside.

    Raises:
        Refused: a size that no sheet can have.
    """
    check_size(rect.width, rect.height)
    dx, dy = -rect.x0, -rect.y0

    layers = tuple(x.moved(dx, dy) for x in sheet.layers)
    mask = None
    if sheet.mask is not None:
        mask = Mask.from_array(sheet.mask.read(rect))
    divisions = tuple(_division(d, d.outline.moved(dx, dy).box) for d in draggable(sheet))
    elements = tuple(replace(e, outline=e.outline.moved(dx, dy)) for e in sheet.elements)
    origin = sheet.origin[0] + rect.x0, sheet.origin[1] + rect.y0
    return replace(
        sheet,
        width=rect.width,
        height=rect.height,
        layers=layers,
        elements=elements,
        mask=mask,
        divisions=divisions,
        origin=origin,
        areas=tuple(a.framed(rect) for a in sheet.areas),
    )


def drawn_sizes(sheet: Sheet, width: int, height: int) -> list[tuple[int, int, int, int]]:
    """Height and width before and after of every picture that scaling the sheet scales."""
    return [x.scaled_sizes(width / sheet.width, height / sheet.height) for x in sheet.layers]


def scaled(sheet: Sheet, width: int, height: int, draw: Draw = resize_picture) -> Sheet:
    """Everything on the sheet at another size, its pictures as `draw` makes them.

    Raises:
        Refused: a size that no sheet can have.
    """
    check_size(width, height)
    kx, ky = width / sheet.width, height / sheet.height
    k = (kx * ky) ** 0.5

    def box(b: Box) -> Box:
        return b[0] * kx, b[1] * ky, b[2] * kx, b[3] * ky

    layers = tuple(x.scaled(kx, ky, draw) for x in sheet.layers)
    mask = None
    if sheet.mask is not None:
        mask = scaled_mask(sheet.mask, height, width)

    def outline(o: Outline) -> Outline:
        return o.with_box(box(o.box))

    divisions = tuple(_division(d, box(d.outline.box)) for d in draggable(sheet))
    leaves = {k: o for d in divisions for k, o in d.leaves().items()}
    elements = tuple(replace(e, outline=leaves.get(e.key) or outline(e.outline), feather=e.feather * k) for e in sheet.elements)
    return replace(
        sheet,
        width=width,
        height=height,
        layers=layers,
        elements=elements,
        mask=mask,
        divisions=divisions,
        origin=(round(sheet.origin[0] * kx), round(sheet.origin[1] * ky)),
        scale=(sheet.scale[0] * kx, sheet.scale[1] * ky),
        areas=tuple(a.scaled(height, width) for a in sheet.areas),
    )
