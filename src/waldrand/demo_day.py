"""The demo's second half: widened to a banner, a deer in the owl's place, a tent brought in from another picture, settled, lettered."""

from __future__ import annotations

import tomllib
from collections.abc import Callable
from dataclasses import replace
from importlib.resources import files
from pathlib import Path
from threading import Event
from typing import Any

import numpy as np
from scipy import ndimage

from .core.packs import Pack
from .core.passes.growing import grown, ratio_of, to_ratio
from .core.passes.plan import plan
from .core.passes.recipe import picture_recipe
from .core.passes.request import Request
from .core.passes.run import run_take
from .core.passes.settings import PassSettings
from .core.passes.watch import Progress, Watch
from .core.picture.cutting import clean_edge, shaped
from .core.picture.placed import visible_box
from .core.picture.warped import corners_of
from .core.seen.cut_out import by_words
from .core.values.area import Area
from .core.values.belonging import belonging
from .core.values.frame import Rect
from .core.values.layers import SEEN, PictureLayer
from .core.values.lettering import Lettering, Letters, name_of
from .core.values.masks import Mask
from .core.values.outline import Outline
from .core.values.resize import framed
from .core.values.shaping import drawn
from .core.values.sheet import Sheet
from .core.values.stacking import mask_of_layer
from .files.exporting import About, export_picture
from .files.openraster import save_sheet
from .files.pictures import read_picture, write_png
from .files.typefaces import draw_letters

STEPS = ("banner-1-wider.png", "banner-2-no-owl.png", "banner-3-deer.png", "banner-4-tent.png", "banner-5-settled.png", "banner.png")
NAMES = (*STEPS, "banner.jpg", "banner.ora")


class Day:
    """The steps, one after another; each gives the sheet as it is then."""

    def __init__(self, settings: PassSettings, pack: Pack, progress: Progress | None, stop: Event | None) -> None:
        self._folder = Path(str(files("waldrand") / "data" / "demo"))
        self.said: dict[str, Any] = tomllib.loads((self._folder / "demo.toml").read_text("utf-8"))
        self._settings, self._pack, self._watch = settings, pack, Watch(progress, stop)

    def _laid(self, sheet: Sheet, kind: str, name: str, strength: float, seed: int, words: str = "") -> Sheet:
        settings = replace(self._settings, strength=strength, seed=seed)
        take = run_take(plan(sheet, Request(kind, settings, words), self._pack), self._pack, seed, self._watch)
        return take.laid_on(sheet, name)

    def wider(self, sheet: Sheet) -> Sheet:
        """Room on the right, painted on from the old picture."""
        d = self.said["banner"]
        room = to_ratio(sheet.width, sheet.height, ratio_of(d["ratio"]), (0.0, 0.0))
        return self._laid(framed(sheet, grown(sheet.width, sheet.height, room)), "extend", "wider", 0.85, d["seed"])

    def without_owl(self, sheet: Sheet) -> Sheet:
        """The owl, found by its word in the part of the picture that it sits in, taken away again."""
        d, w, h = self.said["owl"], sheet.width, sheet.height
        x0, y0, x1, y1 = d["part"]
        part = Rect(round(x0 * w), round(y0 * h), round(x1 * w), round(y1 * h))
        grey = np.zeros((h, w), np.uint8)
        grey[part.slices] = np.round(255 * shaped(by_words(sheet.flatten(part), d["words"], self._pack), d["grow"]))
        mask = Mask.from_array(grey)
        gone = self._laid(replace(sheet, mask=mask), "inpaint", "no owl", 1.0, d["seed"])
        return replace(gone, mask=None)

    def deer(self, sheet: Sheet) -> Sheet:
        """Another animal where it sat."""
        d, w, h = self.said["deer"], sheet.width, sheet.height
        x0, y0, x1, y1 = d["box"]
        mask = Mask.from_array(drawn(Outline("box", (x0 * w, y0 * h, x1 * w, y1 * h)), sheet.rect))
        painted = self._laid(replace(sheet, mask=mask), "inpaint", "deer", 1.0, d["seed"], d["words"])
        return replace(painted, mask=None)

    def tent(self, sheet: Sheet) -> Sheet:
        """A cut-out of another picture, scaled, laid down, matched, and held from then on."""
        d = self.said["tent"]
        pixels = read_picture(self._folder / d["picture"]).pixels
        cut = pixels.copy()
        cut[..., 3] = np.round(255 * by_words(pixels, d["words"], self._pack))
        x0, y0, x1, y1 = visible_box(cut)
        cut = clean_edge(np.ascontiguousarray(cut[y0:y1, x0:x1]))
        width = d["width"] * sheet.width
        height = width * cut.shape[0] / cut.shape[1]
        left, low = d["at"][0] * sheet.width - width / 2, d["at"][1] * sheet.height + height / 2
        layer = PictureLayer(sheet.next_key(), "tent", cut).with_corners(corners_of(left, low - height, left + width, low))
        sheet = belonging(sheet.with_layer(layer), layer.key, d["match"], d["no_seam"])
        return sheet.with_area(Area(sheet.next_key(), "tent", Mask.from_array(mask_of_layer(sheet, layer.key)), hold=True))

    def settled(self, sheet: Sheet) -> Sheet:
        """A light rework, of which only what lies round the tent is kept."""
        d, tent = self.said["settle"], sheet.areas[-1].mask.read() > 127
        reworked = self._laid(sheet, "rework", "settled", d["strength"], d["seed"])
        made = reworked.layers[-1]
        near = ndimage.distance_transform_edt(~tent) <= d["round"]
        part = np.where(near & (made.region > 0), 255, 0).astype(np.uint8)  # type: ignore[attr-defined]
        return sheet.with_made(made.changed(region=part, feather=d["round"] / 2))

    def lettered(self, sheet: Sheet) -> Sheet:
        """A line of lettering over it."""
        d = dict(self.said["letters"])
        at = d.pop("at")
        says = Letters(**d)
        pixels, _ = draw_letters(says)
        h, w = pixels.shape[:2]
        x, y = round(at[0] * sheet.width - w / 2), round(at[1] * sheet.height - h / 2)
        return sheet.with_layer(Lettering(sheet.next_key(), name_of(says), pixels, x, y, says=says, role=SEEN))


def run_day(
    sheet: Sheet,
    settings: PassSettings,
    pack: Pack,
    out: Path,
    progress: Progress | None = None,
    stop: Event | None = None,
    say: Callable[[str], None] = print,
) -> Sheet:
    """Goes on with the demo's kept sheet, writes a picture of every step into `out`, and the whole as PNG, JPEG and sheet."""
    day = Day(settings, pack, progress, stop)
    for step, name in zip((day.wider, day.without_owl, day.deer, day.tent, day.settled, day.lettered), STEPS, strict=True):
        sheet = step(sheet)
        write_png(out / name, sheet.flatten(), picture_recipe(sheet))
        say(name)
    about = day.said["about"]
    export_picture(out / "banner.jpg", sheet.flatten(), "jpeg", about=About(about["title"], about["author"]))
    save_sheet(out / "banner.ora", sheet)
    say("banner.jpg, banner.ora")
    return sheet
