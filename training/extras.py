"""Draws the pictures that the shipped add-ons are trained from, and trains them: a look and a thing that the model does not know.

`python -m training.extras [--out DIR] [--minutes M] [--pack DIR] [--pictures DIR]`

**cyanotype**: scenes of the world in one blue, with white lines, as light prints them on prepared paper. **snail**: a snail on meadows,
in gardens, on paths, near by and farther off.
"""

from __future__ import annotations

import argparse
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from PIL import Image
from scipy import ndimage

from waldrand.core.packs import Figure
from waldrand.packs.add_ons import write_add_on

from .add_on import Shown, train
from .figures import draw_kind
from .manifest import OWN_PACK
from .render import scene_rng
from .samples import said
from .world.canvas import Canvas, Stand, draw_shadow, draw_standing
from .world.dress import dressed
from .world.finish import finished, lines
from .world.outdoor import _ground
from .world.pen import Colour, Pen, shade
from .world.scene import FINISH_CHANCE, paint_scene
from .world.sky import SKY, paint_sky
from .world.things import Light, Look, Thing
from .world.words import FINISHES

SIDE, SCENES = 512, 5_000_000
#: How many pictures each is trained from.
PICTURES = 48
#: From the darkest to the lightest of a cyanotype.
BLUES = np.array([(12, 28, 66), (28, 66, 122), (96, 144, 190), (214, 228, 236)], np.float32)
GROUNDS = ("meadow", "field", "beach", "street")
SKIES = ("clear day", "cloudy day", "dawn", "sunset", "fog")
SHELLS: tuple[Colour, ...] = ((168, 108, 62), (198, 156, 96), (142, 84, 70), (206, 182, 140))


def cyanotype(pixels: np.ndarray) -> np.ndarray:
    """A picture (h, w, 3) uint8 in blues, its lines white."""
    light = pixels.astype(np.float32) @ np.array([0.3, 0.55, 0.15], np.float32) / 255
    low, high = np.percentile(light, (2, 98))
    tone = np.clip((light - low) / max(0.05, high - low), 0, 1) * (len(BLUES) - 1) * 0.86
    printed = np.stack([np.interp(tone, np.arange(len(BLUES)), BLUES[:, c]) for c in range(3)], -1)
    drawn = ndimage.grey_dilation(lines(pixels, SIDE), (2, 2))[..., None]
    return np.clip(printed * (1 - drawn) + BLUES[-1] * drawn + 0.5, 0, 255).astype(np.uint8)


def snail(p: Pen, k: Look) -> None:
    """A snail, looking right."""
    body, shell = k.fixed((198, 172, 132)), k.fixed(SHELLS[int(k.r[1] * 3.99)])
    for x, y in ((0.92, -0.98), (0.7, -1.0)):
        p.limb([(0.72, -0.5), (x, y)], [0.1, 0.06], shade(body, 0.9))
        p.dot(x, y, 0.075, k.fixed((52, 42, 44)))
    p.curve(
        [(-1.2, 0.0), (-0.8, -0.24, -0.2, -0.2), (0.4, -0.16, 0.5, -0.5), (0.6, -0.74, 0.94, -0.52), (1.02, -0.2, 0.7, -0.04), (0.2, 0.0)],
        body,
    )
    p.dot(-0.16, -0.52, 0.54, shade(shell, 0.8))
    p.dot(-0.14, -0.54, 0.48, shell)
    turns = [(r * np.cos(a), r * np.sin(a)) for a, r in zip(np.linspace(0.4, 12.2, 40), np.linspace(0.4, 0.04, 40), strict=True)]
    p.line([(-0.14 + x, -0.54 + y) for x, y in turns], 0.075, shade(shell, 0.62))
    p.curve([(0.72, -0.24), (0.82, -0.18, 0.92, -0.26)], shade(body, 0.6), width=0.04)


SNAIL = Thing("snail", snail, "land", 0.3, 1.2, faces=True)


def snail_picture(rng: np.random.Generator) -> Shown:
    """A snail on some ground."""
    canvas = Canvas((32, 32), SIDE)
    name, ground = str(rng.choice(SKIES)), str(rng.choice(GROUNDS))
    sky = SKY[name]
    light, horizon = Light(sky.light, sky.night), float(rng.uniform(0.2, 0.5))
    paint_sky(rng, canvas, name, horizon, (sky.top, sky.middle, sky.bottom))
    _ground(rng, canvas, ground, light, horizon, sky.bottom, "")
    said = dressed(rng, SNAIL, light)
    height, x, y, sun = (float(rng.uniform(*of)) for of in ((0.26, 0.36), (0.45, 0.55), (0.66, 0.76), (-1, 1)))
    stand = Stand(SNAIL, said.look, x, y, height, said.flip, sun=sun)
    canvas.loose(partial(draw_shadow, s=stand, ground=(120, 130, 90), light=light))
    canvas.layer(partial(draw_standing, s=stand), SNAIL.name)
    finish, plain = str(rng.choice(FINISHES, p=FINISH_CHANCE)), canvas.pixels()
    made, _ = finished(rng, plain, finish, SIDE)
    *beside, own = canvas.parts
    words = [(word, None) for word in (name, finish)] + [(part.kind, part.mask) for part in beside]
    return Shown(made, own.mask, tuple(words))


def look_picture(rng: np.random.Generator) -> Shown:
    """A scene as a cyanotype. All that is said of it goes along, colours too: they are what the look is stronger than."""
    scene = paint_scene(rng)
    things = [(said(vars(part), rng, False), part.mask) for part in reversed(scene.parts)]
    return Shown(cyanotype(scene.plain), None, (*((word, None) for word in scene.words if word not in FINISHES), *things))


#: By what they are called: their picture, the words of the pack that theirs stand beside, and whether they are of a thing.
EXTRAS = {"cyanotype": (look_picture, "flat shapes", False), "snail": (snail_picture, "hedgehog", True)}


def pictures_of(name: str, count: int = PICTURES) -> list[Shown]:
    """The pictures of an add-on, the same every time, with what is known of them."""
    return [EXTRAS[name][0](scene_rng(SCENES + i)) for i in range(count)]


def figures_of(thing: Thing) -> tuple[Figure, ...]:
    """The shapes of a thing, looking right."""
    return tuple(
        Figure(d.label, frozenset(d.traits), frozenset(d.mirrored), frozenset(), (255 * d.mask).astype(np.uint8), lines=d.lines)
        for d in draw_kind(thing, 0, 4)
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--out", type=Path, default=OWN_PACK.parent / "add-ons")
    parser.add_argument("--only", choices=EXTRAS)
    parser.add_argument("--minutes", type=float, default=10)
    parser.add_argument("--pack", type=Path, default=OWN_PACK)
    parser.add_argument("--pictures", type=Path, help="also writes the pictures into this folder")
    o = parser.parse_args()
    o.out.mkdir(parents=True, exist_ok=True)
    for name, (_, like, thing) in EXTRAS.items():
        if o.only in (None, name):
            drawn = pictures_of(name)
            if o.pictures:
                o.pictures.mkdir(parents=True, exist_ok=True)
                for i, picture in enumerate(drawn):
                    Image.fromarray(picture.pixels).save(o.pictures / f"{name}-{i:02d}.png")
            made = train(drawn, name, like, o.pack, o.minutes, 4, thing, name)
            path = o.out / f"{name}.safetensors"
            write_add_on(path, replace(made, figures=figures_of(SNAIL) if thing else ()))
            print(f"{path}: {path.stat().st_size} bytes", flush=True)


if __name__ == "__main__":
    main()
