"""A contact sheet of fixed prompts: what the training has learned, to be looked at."""

from __future__ import annotations

import itertools

import numpy as np
import torch
from PIL import Image
from torch import Tensor

from .config import Config, work_folder
from .latent import Latent, Preview
from .networks import ELEMENT, SCENE, Painter
from .precision import fast
from .world.scene import CELLS, kinds
from .world.words import vocabulary

Box = tuple[float, float, float, float]
LAYOUTS: tuple[tuple[tuple[str, Box | None], ...], ...] = (
    (
        ("starry night", None),
        ("meadow", None),
        ("forest", None),
        ("birch", (0.03, 0.2, 0.32, 0.95)),
        ("white cottage lit windows", (0.55, 0.4, 0.98, 0.78)),
        ("lit lantern", (0.38, 0.4, 0.5, 0.8)),
        ("red fox facing right", (0.3, 0.72, 0.66, 0.97)),
    ),
    (
        ("sunset", None),
        ("lake", None),
        ("ink wash", None),
        ("sun", (0.1, 0.1, 0.34, 0.34)),
        ("mountains", (0, 0.25, 1, 0.5)),
        ("red sailing boat", (0.55, 0.28, 0.88, 0.8)),
        ("swan facing right", (0.08, 0.62, 0.45, 0.92)),
    ),
    (
        ("clear day", None),
        ("snow field", None),
        ("owl", (0.08, 0.42, 0.42, 0.92)),
        ("blue tent", (0.5, 0.5, 0.97, 0.9)),
        ("yellow balloon", (0.55, 0.03, 0.85, 0.45)),
    ),
    (
        ("dawn", None),
        ("meadow", None),
        ("hills", None),
        ("gouache grain", None),
        ("deer facing left standing", (0.1, 0.4, 0.5, 0.95)),
        ("horse facing right walking", (0.5, 0.45, 0.98, 0.92)),
    ),
    (
        ("clear day", None),
        ("street", None),
        ("town", None),
        ("woman red dress blonde hair front view", (0.1, 0.25, 0.38, 0.97)),
        ("green car facing left", (0.45, 0.62, 0.97, 0.9)),
        ("tree", (0.55, 0.15, 0.9, 0.65)),
    ),
    (
        ("room", None),
        ("clear day", None),
        ("wall", None),
        ("floor", None),
        ("window", (0.35, 0.1, 0.68, 0.5)),
        ("blue armchair", (0.02, 0.45, 0.36, 0.9)),
        ("lamp", (0.78, 0.2, 0.97, 0.88)),
        ("cat facing right sitting", (0.42, 0.6, 0.7, 0.92)),
    ),
    (
        ("still life", None),
        ("wall", None),
        ("tabletop", None),
        ("teapot", (0.08, 0.35, 0.5, 0.82)),
        ("red apple", (0.52, 0.58, 0.72, 0.85)),
        ("green bottle", (0.76, 0.15, 0.92, 0.8)),
    ),
    (("sunset", None), ("lake", None), ("man portrait front view black hair blue coat", (0.15, 0.1, 0.85, 1.0))),
    (("clear day", None), ("meadow", None), ("white cottage", None), ("pine", None), ("purple flowers", None)),
)


@torch.no_grad()
def paint_sheet(net: Painter, latent: Latent, config: Config, label: str, takes: int = 5, steps: int = 20, guidance: float = 2.0) -> None:
    """Writes `sheets/LABEL.png` in the work folder: a row for each layout, quarter-size pictures."""
    c = config["denoiser"]
    ids_of = {w: i for i, w in enumerate(vocabulary(kinds()))}
    preview, rows = Preview(latent), []
    levels = torch.linspace(1, 0, steps + 1)
    levels = 2 * levels / (1 + levels)
    for layout in LAYOUTS:
        ids = torch.zeros(1, c["rows"], c["phrase_length"], dtype=torch.long)
        kind, outline = torch.zeros(1, c["rows"]), torch.zeros(1, c["rows"], CELLS, CELLS)
        for j, (text, box) in enumerate(layout):
            words = [ids_of[w] for w in text.split()]
            ids[0, j, : len(words)] = torch.tensor(words)
            kind[0, j] = SCENE if box is None else ELEMENT
            if box is not None:
                x0, y0, x1, y1 = (round(v * CELLS) for v in box)
                outline[0, j, y0:y1, x0:x1] = 1
        x = torch.randn(takes, config["latent"]["channels"], CELLS, CELLS, generator=torch.Generator().manual_seed(7))
        told = [a.expand(takes, *a.shape[1:]) for a in (ids, kind, outline, (kind > 0).float())]
        both: list[Tensor] = [torch.cat([a, torch.zeros_like(a)]) for a in told]
        for a, b in itertools.pairwise(levels):
            with fast():
                v = net(
                    torch.cat([x, x]),
                    torch.zeros(2 * takes, *x.shape[1:]),
                    torch.ones(2 * takes, 1, CELLS, CELLS),
                    a.expand(2 * takes),
                    *both,
                ).float()
            told_v, free_v = v.chunk(2)
            x = x + (b - a) * (free_v + guidance * (told_v - free_v))
        picture = ((preview(x).clamp(-1, 1) + 1) * 127.5).byte().permute(0, 2, 3, 1).numpy()
        rows.append(np.concatenate(list(picture), 1))
    folder = work_folder(config) / "sheets"
    folder.mkdir(exist_ok=True)
    image = Image.fromarray(np.concatenate(rows))
    image.resize((image.width * 3 // 2, image.height * 3 // 2), Image.Resampling.BICUBIC).save(folder / f"{label}.png")
