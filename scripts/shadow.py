"""Makes docs/desk-pictures/shadow.jpg: a horse laid into another picture, a shadow's outline drawn under it, all settled."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.picture.lines import lines_of
from waldrand.core.picture.placed import placed
from waldrand.core.seen.cut_out import by_words
from waldrand.core.values.belonging import belonging
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import LINES, PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.pencil import Pencil
from waldrand.core.values.sheet import Sheet
from waldrand.core.values.strokes import Stroke
from waldrand.packs.onnx_pack import OnnxPack

OUT = Path(__file__).parent.parent / "docs" / "desk-pictures" / "shadow.jpg"
SIDE, SCENE = 512, "clear day, meadow, hills"


def main() -> None:
    pack = OnnxPack()

    def made(sheet: Sheet, kind: str = "compose", seed: int = 3, **settings: float) -> Sheet:
        request = Request(kind, PassSettings(seed=seed, **settings))  # type: ignore[arg-type]
        return run_take(plan(sheet, request, pack), pack, seed).laid_on(sheet, kind)

    bare = Sheet(SIDE, SIDE, scene=SceneWords(SCENE))
    horse = Element(1, "horse", Outline("box", (77, 179, 410, 435)), "brown horse facing right")
    other = made(replace(bare, elements=(horse,))).flatten()
    other[..., 3] = np.round(255 * by_words(other, "horse", pack))
    ground = made(bare, seed=5)
    pixels, x, y = placed(other, (256, 300), 0.8)
    card = PictureLayer(ground.next_key(), "horse", pixels, x, y)
    laid = belonging(ground.with_layer(card), card.key, 0.4, 0.0)
    laid = replace(laid, scene=SceneWords(f"{SCENE}, brown horse"))
    lines = np.round(255 * lines_of(laid.flatten())).astype(np.uint8)
    ink = np.dstack([np.zeros((SIDE, SIDE, 3), np.uint8), lines])
    drawn = laid.with_layer(PictureLayer(laid.next_key(), "lines", ink, role=LINES))
    r = card.seen
    turn = np.linspace(0, 2 * np.pi, 60)
    ring = tuple((float((r.x0 + r.x1) / 2 + 0.5 * r.width * np.cos(a)), float(r.y1 + 14 * np.sin(a)), 2.0) for a in turn)
    drawn = drawn.with_layer(Pencil.new(drawn.next_key(), "shadow", SIDE, SIDE).with_stroke(Stroke(ring)))
    settled = made(drawn, "rework", 2, strength=0.35)
    shadow = drawn.layers[-1].shown[..., 3]
    pencil = np.dstack([255 - np.maximum(lines, shadow)] * 3)
    panels = [laid.flatten()[..., :3], pencil, settled.flatten()[..., :3]]
    OUT.parent.mkdir(parents=True, exist_ok=True)
    Image.fromarray(np.concatenate(panels, 1)).resize((3 * 384, 384), Image.Resampling.LANCZOS).save(OUT, quality=88)


if __name__ == "__main__":
    main()
