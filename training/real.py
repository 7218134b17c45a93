"""Pictures that are not of the world, for the enlarger: photographs that installed packages ship, and dead leaves."""

from __future__ import annotations

from collections.abc import Sequence
from importlib.resources import files
from pathlib import Path

import numpy as np
import skia
from PIL import Image

from .world.pen import Pen

#: Of scikit-image; those the benchmark judges (astronaut, chelsea, coffee, rocket) are not among them.
SHIPPED = (
    *("motorcycle_left.png", "motorcycle_right.png", "brick.png", "grass.png", "gravel.png", "camera.png", "coins.png", "moon.png"),
    *("ihc.png", "retina.jpg", "hubble_deep_field.jpg", "page.png"),
)
_MATE, _LOMIRI, _PLASMA = "backgrounds/mate/nature/{}.jpg", "backgrounds/{}.jpg", "wallpapers/{}/contents/images/2560x1600.jpg"
#: Of Debian's packages of these names, below /usr/share: under GPL-2+, and under CC0, CC BY 4.0 and CC BY-SA 4.0.
OF_PACKAGES = {
    "mate-backgrounds": tuple(
        _MATE.format(name)
        for name in ("Aqua", "Blinds", "Dune", "Garden", "GreenMeadow", "LadyBird", "RainDrops", "Storm", "TwoWings", "Wood")
    ),
    "lomiri-wallpapers-16.04": tuple(
        _LOMIRI.format(name)
        for name in (
            *("Bridge_by_Sander_Klootwijk", "Dragonfly_by_Bolly", "Picture_0B_by_freespace", "Wine_by_Jakkub_Mede"),
            *("aitzgorri_by_Aitzol_Berasategi", "friends_by_Aitzol_Berasategi", "greentock_by_Peter_Nerlich"),
            *("picosdeeuropa_by_Aitzol_Berasategi", "seeding_by_Clements_Engelhardt", "sunset_by_Aitzol_Berasategi"),
        )
    ),
    "plasma-workspace-wallpapers": tuple(
        _PLASMA.format(name) for name in ("Autumn", "BytheWater", "ColorfulCups", "FallenLeaf", "Grey", "Kite", "OneStandsOut", "Path")
    ),
}
#: Of the same packages, never trained on: the curve's own. The benchmark's are kept for the benchmark.
UNSEEN = (
    *(_MATE.format("YellowFlower"), _LOMIRI.format("Picture_1A_by_freespace"), _LOMIRI.format("life_by_Aitzol_Berasategi")),
    _PLASMA.format("EveningGlow"),
)
#: Their shorter sides: photographs are as large as cameras make them, and sharp only when brought down.
SIDES, UNSEEN_SIDE = (1000, 640, 420), 420
SHARE = Path("/usr/share")


def missing(share: Path = SHARE) -> list[str]:
    """The packages whose photographs are not installed."""
    return [package for package, names in OF_PACKAGES.items() if not all((share / name).exists() for name in names)]


def _scaled(path: Path, sides: Sequence[int]) -> list[np.ndarray]:
    """A file's picture (H, W, 3) uint8 with each of these shorter sides."""
    with Image.open(path) as image:
        rgb = image.convert("RGB")
    sizes = [(round(rgb.width * side / min(rgb.size)), round(rgb.height * side / min(rgb.size))) for side in sides]
    return [np.asarray(rgb.resize(size, Image.Resampling.LANCZOS)) for size in sizes]


def photographs(share: Path = SHARE) -> list[np.ndarray]:
    """Each (H, W, 3) uint8: those of scikit-image as they are, and again at half their size, where edges are sharper; those of the
    packages that are installed at several sizes."""
    out = []
    for name in SHIPPED:
        with Image.open(str(files("skimage") / "data" / name)) as image:
            rgb = image.convert("RGB")
            out.append(np.asarray(rgb))
            if min(rgb.size) >= 400:
                out.append(np.asarray(rgb.resize((rgb.width // 2, rgb.height // 2), Image.Resampling.BOX)))
    known = [share / name for names in OF_PACKAGES.values() for name in names]
    return out + [picture for path in known if path.exists() for picture in _scaled(path, SIDES)]


def unseen_photographs(share: Path = SHARE) -> list[np.ndarray]:
    """Photographs (H, W, 3) uint8 of whole cells that are never trained on, of the packages that are installed."""
    found = [picture for name in UNSEEN if (share / name).exists() for picture in _scaled(share / name, [UNSEEN_SIDE])]
    return [p[: p.shape[0] // 16 * 16, : p.shape[1] // 16 * 16] for p in found]


def dead_leaves(rng: np.random.Generator, size: int = 512, leaves: int = 700) -> np.ndarray:
    """Overlapping shapes of all sizes and colours with a little grain, (size, size, 3) uint8.

    Their sizes follow a power law, so that edges and flats are as in photographs (Lee, Mumford and Huang 2001).
    """
    surface = skia.Surface(size, size)
    with surface as canvas:
        pen = Pen(canvas)
        canvas.clear(skia.ColorGRAY)
        tone = rng.uniform(40, 215, 3)
        for _ in range(leaves):
            r = 3.0 * (rng.random() * (1 - (3 / 160) ** 2) + (3 / 160) ** 2) ** -0.5
            x, y = rng.uniform(0, size, 2)
            colour = tuple(float(v) for v in np.clip(rng.normal(tone, 60), 0, 255))
            if rng.random() < 0.5:
                pen.oval(x, y, r, r * rng.uniform(0.3, 1), colour)
            else:
                n, turn = int(rng.integers(3, 7)), rng.uniform(0, 6.3)
                pen.poly([(x + r * np.cos(turn + 6.283 * i / n), y + r * np.sin(turn + 6.283 * i / n)) for i in range(n)], colour)
    pixels = surface.makeImageSnapshot().toarray()[..., [2, 1, 0]].astype(np.float32)
    return np.asarray(np.clip(pixels + rng.normal(0, rng.uniform(0, 6), pixels.shape), 0, 255), np.uint8)
