"""What a denoiser is told besides words and outlines: drawings, depth, and the look of another picture."""

from __future__ import annotations

import torch
import torch.nn.functional as F
from torch import Tensor, nn

#: Guides have so many pixels to a cell's side.
PER_CELL = 4
WIDTH = 96


class Guide(nn.Module):
    """Lines and depth (B, 1, 4 h, 4 w) 0..1, and how much each is given (B, 2) 0..1, as two maps (B, A, h, w): what is added at the
    finest level going down, and going up. Both begin at zero."""

    def __init__(self, a: int) -> None:
        super().__init__()
        self.a, self.b = nn.Conv2d(2 * PER_CELL**2 + 2, WIDTH, 3, padding=1), nn.Conv2d(WIDTH, WIDTH, 3, padding=1)
        self.into, self.up = nn.Conv2d(WIDTH, a, 1), nn.Conv2d(WIDTH, a, 1)
        for last in (self.into, self.up):
            nn.init.zeros_(last.weight)
            nn.init.zeros_(last.bias)  # type: ignore[arg-type]

    def forward(self, lines: Tensor, depth: Tensor, given: Tensor) -> tuple[Tensor, Tensor]:
        x = torch.cat([F.pixel_unshuffle(lines, PER_CELL), F.pixel_unshuffle(depth, PER_CELL)], 1)
        x = torch.cat([x, given[:, :, None, None].expand(-1, -1, *x.shape[2:])], 1)
        x = F.silu(self.a(x))
        x = x + F.silu(self.b(x))
        return self.into(x), self.up(x)


class LookReader(nn.Module):
    """Looks (R, S) as `waldrand.core.told.look` tells them -> what a phrase would be, (R, d)."""

    def __init__(self, numbers: int, d: int) -> None:
        super().__init__()
        # Of the looks that it is trained on: given to it before the training begins.
        self.centre = nn.Parameter(torch.zeros(numbers), requires_grad=False)
        self.spread = nn.Parameter(torch.ones(numbers), requires_grad=False)
        self.up, self.down = nn.Linear(numbers, 2 * d), nn.Linear(2 * d, d)
        self.norm = nn.LayerNorm(d)

    def forward(self, looks: Tensor) -> Tensor:
        # A look beyond all that were seen says no more than the furthest that was.
        x = ((looks - self.centre) / self.spread).clamp(-4, 4)
        return self.norm(self.down(F.silu(self.up(x))))
