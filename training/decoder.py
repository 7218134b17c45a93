"""From latents to pictures: the inverse of the representation, the enlarger, and what is known held fast."""

from __future__ import annotations

from torch import Tensor, nn
from torch.nn import functional as F

from .latent import Encoder, Latent, Preview
from .networks import DrawnEnlarger, Enlarger, LightEnlarger, Spread, cubic, linear

#: How often what is drawn is compared with its latent and put right; by the light one.
TIMES, LIGHT_TIMES = 2, 1


class Decoder(nn.Module):
    """Latents (B, C, h, w), and which cells a denoiser painted (B, 1, h, w) 0..1 -> pictures (B, 3, 16 h, 16 w) in 0..1. With a drawn
    enlarger also where edges are to lie, lines (B, 1, 16 h, 16 w) 0..1.

    What no denoiser painted is drawn so that, brought down again, it gives the latent it came from: the part of the picture that is
    known is not guessed at (iterative back projection; Irani and Peleg, "Improving resolution by image registration", 1991). What
    was painted may be mended, and so differ from its latent. times: how often what is drawn is compared and put right.
    """

    def __init__(self, latent: Latent, shrink: int, enlarger: Enlarger | DrawnEnlarger | LightEnlarger, times: int = TIMES) -> None:
        super().__init__()
        self.encoder, self.preview, self.enlarger, self.times = Encoder(latent, shrink), Preview(latent), enlarger, times
        self.spread, self.spread_one = Spread(3, shrink, cubic, 2), Spread(1, shrink, linear, 1)

    def drawn(self, z: Tensor, painted: Tensor, lines: Tensor | None = None) -> Tensor:
        """As forward, in -1..1 and not clipped."""
        fine = F.interpolate(painted, scale_factor=float(self.preview.patch), mode="nearest")
        small = self.preview(z)
        x = small.clamp(-1, 1)
        made = self.enlarger(x, fine) if lines is None else self.enlarger(x, fine, lines)
        known = 1 - self.spread_one(fine)
        for _ in range(self.times):
            missing = small - self.preview(self.encoder.small(F.avg_pool2d(made, self.encoder.shrink)))
            made = made + known * self.spread(missing)
        return made

    def forward(self, z: Tensor, painted: Tensor, lines: Tensor | None = None) -> Tensor:
        return (self.drawn(z, painted, lines) * 0.5 + 0.5).clamp(0, 1)
