"""From latents to pictures: the inverse of the representation, the enlarger, and what is known held fast."""

from __future__ import annotations

from torch import Tensor, nn
from torch.nn import functional as F

from .latent import Encoder, Latent, Preview
from .networks import DrawnEnlarger, Enlarger, LightEnlarger, Spread, cubic, linear

#: How often what is drawn is compared with its latent and put right.
TIMES = 2


class Decoder(nn.Module):
    """Latents (B, C, h, w), and which cells a denoiser painted (B, 1, h, w) 0..1 -> pictures (B, 3, 16 h, 16 w) in 0..1. With a drawn
    enlarger also where edges are to lie, lines (B, 1, 16 h, 16 w) 0..1.

    What no denoiser painted is drawn so that, brought down again, it gives the latent it came from: the part of the picture that is
    known is not guessed at (iterative back projection; Irani and Peleg, "Improving resolution by image registration", 1991). What
    was painted may be mended, and so differ from its latent.
    """

    def __init__(self, latent: Latent, shrink: int, enlarger: Enlarger | DrawnEnlarger) -> None:
        super().__init__()
        self.encoder, self.preview, self.enlarger = Encoder(latent, shrink), Preview(latent), enlarger
        self.spread, self.spread_one = Spread(3, shrink, cubic, 2), Spread(1, shrink, linear, 1)

    def drawn(self, z: Tensor, painted: Tensor, lines: Tensor | None = None) -> Tensor:
        """As forward, in -1..1 and not clipped."""
        fine = F.interpolate(painted, scale_factor=float(self.preview.patch), mode="nearest")
        small = self.preview(z)
        x = small.clamp(-1, 1)
        made = self.enlarger(x, fine) if lines is None else self.enlarger(x, fine, lines)
        known = 1 - self.spread_one(fine)
        for _ in range(TIMES):
            missing = small - self.preview(self.encoder.small(F.avg_pool2d(made, self.encoder.shrink)))
            made = made + known * self.spread(missing)
        return made

    def forward(self, z: Tensor, painted: Tensor, lines: Tensor | None = None) -> Tensor:
        return (self.drawn(z, painted, lines) * 0.5 + 0.5).clamp(0, 1)


class LightDecoder(nn.Module):
    """As `Decoder` with a drawn enlarger, for what is wanted soon: what is known is not compared with its latent, which would be a sixth
    of the time."""

    def __init__(self, latent: Latent, enlarger: LightEnlarger) -> None:
        super().__init__()
        self.preview, self.enlarger = Preview(latent), enlarger

    def forward(self, z: Tensor, painted: Tensor, lines: Tensor) -> Tensor:
        fine = F.interpolate(painted, scale_factor=float(self.preview.patch), mode="nearest")
        return (self.enlarger(self.preview(z).clamp(-1, 1), fine, lines) * 0.5 + 0.5).clamp(0, 1)
