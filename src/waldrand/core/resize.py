"""The whole sheet cropped, extended or scaled."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .division import Division, draggable
from .frame import Rect
from .masks import Mask
from .outline import Box, Outline
from .resample import resize_mask, resize_picture, resize_rgba
from .sheet import Layer, Patch, Sheet, check_size


def _division(d: Division, box: Box) -> Division:
    return replace(d, outline=d.outline.with_box(box)).settled()


def framed(sheet: Sheet, rect: Rect) -> Sheet:
    """The sheet cut to, or extended to, a rectangle of its own coordinates; nothing is lost that lies outside.

    Raises:
        ValueError: a size that no sheet can have.
    """
    check_size(rect.width, rect.height)
    dx, dy = -rect.x0, -rect.y0

    def at(r: Rect) -> Rect:
        return Rect(r.x0 + dx, r.y0 + dy, r.x1 + dx, r.y1 + dy)

    layers = tuple(replace(x, frame=at(x.frame)) if isinstance(x, Patch) else replace(x, x=x.x + dx, y=x.y + dy) for x in sheet.layers)
    mask = None
    if sheet.mask is not None:
        mask = Mask.from_array(sheet.mask.read(rect))
    divisions = tuple(_division(d, d.outline.moved(dx, dy).box) for d in draggable(sheet))
    elements = tuple(replace(e, outline=e.outline.moved(dx, dy)) for e in sheet.elements)
    return Sheet(rect.width, rect.height, layers, elements, sheet.scene, mask, divisions)


def scaled(sheet: Sheet, width: int, height: int) -> Sheet:
    """Everything on the sheet at another size.

    Raises:
        ValueError: a size that no sheet can have.
    """
    check_size(width, height)
    kx, ky = width / sheet.width, height / sheet.height
    k = (kx * ky) ** 0.5

    def box(b: Box) -> Box:
        return b[0] * kx, b[1] * ky, b[2] * kx, b[3] * ky

    def rect(r: Rect) -> Rect:
        x0, y0 = round(r.x0 * kx), round(r.y0 * ky)
        return Rect(x0, y0, max(round(r.x1 * kx), x0 + 1), max(round(r.y1 * ky), y0 + 1))

    layers: list[Layer | Patch] = []
    for x in sheet.layers:
        if isinstance(x, Patch):
            f = rect(x.frame)
            pixels = np.clip(resize_picture(x.pixels.astype(np.float32) / 255, f.height, f.width), 0, 1)
            region = resize_mask(x.region.astype(np.float32) / 255, f.height, f.width)
            layers.append(
                replace(
                    x,
                    frame=f,
                    pixels=np.asarray(pixels * 255 + 0.5, np.uint8),
                    region=np.where(region >= 0.5, 255, 0).astype(np.uint8),
                    grow=x.grow * k,
                    feather=x.feather * k,
                )
            )
        else:
            h, w = x.pixels.shape[:2]
            f = rect(Rect(x.x, x.y, x.x + w, x.y + h))
            layers.append(replace(x, pixels=resize_rgba(x.pixels, f.height, f.width), x=f.x0, y=f.y0))
    mask = None
    if sheet.mask is not None:
        grey = resize_mask(sheet.mask.read().astype(np.float32) / 255, height, width)
        mask = Mask.from_array(np.asarray(grey * 255 + 0.5, np.uint8))

    def outline(o: Outline) -> Outline:
        return o.with_box(box(o.box))

    divisions = tuple(_division(d, box(d.outline.box)) for d in draggable(sheet))
    leaves = {k: o for d in divisions for k, o in d.leaves().items()}
    elements = tuple(replace(e, outline=leaves.get(e.key) or outline(e.outline), feather=e.feather * k) for e in sheet.elements)
    return Sheet(width, height, tuple(layers), elements, sheet.scene, mask, divisions)
