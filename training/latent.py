"""The linear representation: average 4 x 4 pixels, cut into 4 x 4 patches, keep the first
principal components, partly whitened. Exactly invertible but for the components left out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import torch
from torch import Tensor, nn

from .config import Config


def to_patches(x: Tensor, patch: int) -> Tensor:
    """(B, 3, H, W) -> (B, 3 patch^2, H / patch, W / patch)."""
    return nn.functional.pixel_unshuffle(x, patch)


def as_input(pixels: np.ndarray) -> Tensor:
    """Pictures (B, H, W, 3) uint8 -> (B, 3, H, W) in -1..1."""
    return torch.from_numpy(pixels).permute(0, 3, 1, 2).float() / 127.5 - 1


def as_pixels(x: Tensor) -> np.ndarray:
    """The way back from `as_input`, rounded and clipped."""
    return np.asarray(((x.clamp(-1, 1) + 1) * 127.5 + 0.5).byte().permute(0, 2, 3, 1).numpy())


@dataclass(frozen=True)
class Latent:
    """mean: (48,); forward: (48, C); backward: (C, 48); patch: pixels of the small picture per cell."""

    mean: np.ndarray
    forward: np.ndarray
    backward: np.ndarray
    patch: int

    def rounded(self) -> Latent:
        """As packs keep it, in half precision."""
        mean, forward, backward = (a.astype(np.float16).astype(np.float32) for a in (self.mean, self.forward, self.backward))
        return Latent(mean, forward, backward, self.patch)

    def save(self, path: Path) -> None:
        np.savez(path, mean=self.mean, forward=self.forward, backward=self.backward, patch=np.array(self.patch))

    @classmethod
    def load(cls, path: Path) -> Latent:
        with np.load(path) as z:
            return cls(z["mean"], z["forward"], z["backward"], int(z["patch"]))


def fit(pictures: np.ndarray, config: Config) -> Latent:
    """Principal components of pictures (N, H, W, 3) uint8, already shrunk.

    Component c gets the deviation top * (std_c / std_0)^(1 + exponent).
    """
    c = config["latent"]
    x = as_input(pictures)
    p = to_patches(x, c["patch"]).permute(0, 2, 3, 1).reshape(-1, 3 * c["patch"] ** 2).numpy()
    mean = p.mean(0)
    values, vectors = np.linalg.eigh(np.cov((p - mean).T))
    order = np.argsort(values)[::-1][: c["channels"]]
    v, std = vectors[:, order], np.sqrt(values[order])
    # A sign convention, so that a repeated fit gives the same components.
    v = v * np.sign(v[np.abs(v).argmax(0), np.arange(v.shape[1])])
    scale = c["top"] / std[0] * (std / std[0]) ** c["exponent"]
    return Latent(mean.astype(np.float32), (v * scale).astype(np.float32), (v / scale).T.astype(np.float32), c["patch"])


class Encoder(nn.Module):
    """Pictures (B, 3, H, W) in 0..1 -> latents (B, C, H / 16, W / 16)."""

    def __init__(self, latent: Latent, shrink: int) -> None:
        super().__init__()
        self.patch, self.shrink = latent.patch, shrink
        self.weight = nn.Parameter(torch.from_numpy(latent.forward.T.copy())[:, :, None, None], requires_grad=False)
        self.bias = nn.Parameter(torch.from_numpy(-latent.mean @ latent.forward), requires_grad=False)

    def small(self, x: Tensor) -> Tensor:
        """As forward, for pictures already shrunk, in -1..1."""
        return nn.functional.conv2d(to_patches(x, self.patch), self.weight, self.bias)

    def forward(self, x: Tensor) -> Tensor:
        return self.small(nn.functional.avg_pool2d(x, self.shrink) * 2 - 1)


class Preview(nn.Module):
    """Latents -> pictures a quarter as large, (B, 3, 4 h, 4 w) in -1..1, not clipped."""

    def __init__(self, latent: Latent) -> None:
        super().__init__()
        self.patch = latent.patch
        self.weight = nn.Parameter(torch.from_numpy(latent.backward.T.copy())[:, :, None, None], requires_grad=False)
        self.bias = nn.Parameter(torch.from_numpy(latent.mean.copy()), requires_grad=False)

    def forward(self, z: Tensor) -> Tensor:
        return nn.functional.pixel_shuffle(nn.functional.conv2d(z, self.weight, self.bias), self.patch)
