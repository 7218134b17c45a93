"""The optimiser: orthogonalised momentum for matrices and convolutions, AdamW for the rest.

Newton-Schulz iteration with the quintic coefficients (3.4445, -4.7750, 2.0315), which bring all
singular values near 1 within five rounds (K. Jordan et al., "Muon", 2024).
"""

from __future__ import annotations

from typing import Any

import torch
from torch import Tensor, nn

PLAIN = ("embed", "kind", "into", "denoiser.out", "time1", "place")


def orthogonal(g: Tensor) -> Tensor:
    """The nearest half-orthogonal matrix to g (m, n), roughly."""
    x = g.bfloat16()
    turned = x.shape[0] > x.shape[1]
    if turned:
        x = x.T
    x = x / (x.norm() + 1e-7)
    for _ in range(5):
        a = x @ x.T
        x = 3.4445 * x + (-4.7750 * a + 2.0315 * a @ a) @ x
    return (x.T if turned else x).float()


class Optimiser:
    """Steps a network's weights; rates are given at each step."""

    def __init__(self, net: nn.Module, momentum: float, weight_decay: float) -> None:
        self.momentum, self.weight_decay = momentum, weight_decay
        self.matrices: list[Tensor] = []
        others: list[Tensor] = []
        for name, p in net.named_parameters():
            plain = p.ndim < 2 or any(k in name for k in PLAIN)
            (others if plain else self.matrices).append(p)
        self.speed = [torch.zeros(p.shape[0], p.numel() // p.shape[0]) for p in self.matrices]
        self.adam = torch.optim.AdamW(others, lr=1.0, betas=(0.9, 0.99), weight_decay=0.01)

    @torch.no_grad()
    def step(self, matrix_rate: float, other_rate: float) -> None:
        for group in self.adam.param_groups:
            group["lr"] = other_rate
        self.adam.step()
        m = self.momentum
        for p, v in zip(self.matrices, self.speed, strict=True):
            assert p.grad is not None
            g = p.grad.reshape(v.shape)
            v.mul_(m).add_(g, alpha=1 - m)
            u = orthogonal(g * (1 - m) + v * m) * (0.2 * max(v.shape) ** 0.5)
            p.mul_(1 - matrix_rate * self.weight_decay).add_(u.reshape(p.shape), alpha=-matrix_rate)

    def state(self) -> dict[str, Any]:
        return {"speed": self.speed, "adam": self.adam.state_dict()}

    def restore(self, state: dict[str, Any]) -> None:
        self.speed = state["speed"]
        self.adam.load_state_dict(state["adam"])
