"""The whole sheet cropped, extended or scaled."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from scipy import ndimage

from ..picture.resample import resize_mask, resize_picture, resize_rgba
from .division import Division, draggable
from .frame import Rect
from .masks import Mask
from .outline import Box, Outline
from .sheet import Layer, Patch, Sheet, check_size

#: How a picture (H, W, 3) float32 0..1 gets another height and width.
Draw = Callable[[np.ndarray, int, int], np.ndarray]


def _division(d: Division, box: Box) -> Division:
    return replace(d, outline=d.outline.with_box(box)).settled()


def framed(sheet: Sheet, rect: Rect) -> Sheet:
    """The sheet cut to, or extended to, a rectangle of its own coordinates; nothing is lost that lies outside.

    Raises:
        Refused: a size that no sheet can have.
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


def _place(x: Layer | Patch, kx: float, ky: float) -> Rect:
    """Where a layer or a patch lies on the sheet when that is scaled."""
    h, w = x.pixels.shape[:2]
    r = x.frame if isinstance(x, Patch) else Rect(x.x, x.y, x.x + w, x.y + h)
    x0, y0 = round(r.x0 * kx), round(r.y0 * ky)
    return Rect(x0, y0, max(round(r.x1 * kx), x0 + 1), max(round(r.y1 * ky), y0 + 1))


def drawn_sizes(sheet: Sheet, width: int, height: int) -> list[tuple[int, int, int, int]]:
    """Height and width before and after of every picture that scaling the sheet scales."""
    kx, ky = width / sheet.width, height / sheet.height
    places = [_place(x, kx, ky) for x in sheet.layers]
    return [(*x.pixels.shape[:2], f.height, f.width) for x, f in zip(sheet.layers, places, strict=True)]


def _rgba(pixels: np.ndarray, height: int, width: int, draw: Draw) -> np.ndarray:
    """(H, W, 3 or 4) uint8 -> (height, width, the same). Under clear pixels the nearest colours go on, so that no rim gets others."""
    smooth = resize_rgba(pixels, height, width) if pixels.shape[2] == 4 else None
    if smooth is not None and draw is resize_picture:
        return smooth
    colours = pixels[..., :3]
    if smooth is not None and pixels[..., 3].any():
        at = ndimage.distance_transform_edt(pixels[..., 3] == 0, return_distances=False, return_indices=True)
        colours = colours[tuple(at)]
    made = np.asarray(np.clip(draw(colours.astype(np.float32) / 255, height, width), 0, 1) * 255 + 0.5, np.uint8)
    return made if smooth is None else np.dstack([made, smooth[..., 3]])


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

    layers: list[Layer | Patch] = []
    for x in sheet.layers:
        f = _place(x, kx, ky)
        pixels = _rgba(x.pixels, f.height, f.width, draw)
        if isinstance(x, Patch):
            region = resize_mask(x.region.astype(np.float32) / 255, f.height, f.width)
            layers.append(
                replace(
                    x,
                    frame=f,
                    pixels=pixels,
                    region=np.where(region >= 0.5, 255, 0).astype(np.uint8),
                    grow=x.grow * k,
                    feather=x.feather * k,
                )
            )
        else:
            layers.append(replace(x, pixels=pixels, x=f.x0, y=f.y0))
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
