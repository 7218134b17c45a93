"""The optimiser: orthogonalised momentum for matrices and convolutions, AdamW for the rest.

Newton-Schulz iteration with the quintic coefficients (3.4445, -4.7750, 2.0315), which bring all
singular values near 1 within five rounds (K. Jordan et al., "Muon", 2024).
"""

from __future__ import annotations

from typing import Any

import torch
from torch import Tensor, nn

from .precision import has_bfloat16_units

A, B, C, ROUNDS = 3.4445, -4.7750, 2.0315, 5
#: Of the denoiser: what is no matrix between features.
PLAIN = ("embed", "kind", "into", "denoiser.out", "through", "time1", "place", "guide.a")


def orthogonal(g: Tensor) -> Tensor:
    """The nearest half-orthogonal matrix to g (m, n), roughly."""
    turned = g.shape[0] > g.shape[1]
    x = (g.T if turned else g) / (g.norm() + 1e-7)
    x = _in_rounds(x.bfloat16()).float() if has_bfloat16_units() else _at_once(x)
    return x.T if turned else x


def _in_rounds(x: Tensor) -> Tensor:
    for _ in range(ROUNDS):
        a = x @ x.T
        x = torch.addmm(x, torch.addmm(a, a, a, beta=B, alpha=C), x, beta=A)
    return x


def _at_once(x: Tensor) -> Tensor:
    # Each round is x <- p(x x^T) x, so all of them are one product of small square matrices applied to x once:
    # a quarter of the work for a 3x3 convolution, but too coarse for bfloat16.
    a, whole = x @ x.T, torch.eye(x.shape[0])
    for _ in range(ROUNDS):
        p = B * a + C * (a @ a)
        p.diagonal().add_(A)
        whole, a = p @ whole, p @ a @ p
    return whole @ x


def _rows(p: Tensor) -> Tensor:
    """A weight as the matrix (out, in) that it is, in the order that it lies in memory: nothing is copied."""
    last = p.ndim == 4 and p.is_contiguous(memory_format=torch.channels_last)
    return (p.permute(0, 2, 3, 1) if last else p).flatten(1)


class Plain:
    """AdamW at rates given at each step."""

    def __init__(self, weights: list[Tensor], second: float, weight_decay: float) -> None:
        self.adam = torch.optim.AdamW(weights, lr=1.0, betas=(0.9, second), weight_decay=weight_decay)

    def step(self, rate: float) -> None:
        for group in self.adam.param_groups:
            group["lr"] = rate
        self.adam.step()

    def state(self) -> dict[str, Any]:
        return self.adam.state_dict()

    def restore(self, state: dict[str, Any]) -> None:
        self.adam.load_state_dict(state)


class Optimiser:
    """Orthogonal steps for a network's matrices, plain ones for the rest, at rates given at each step."""

    def __init__(self, net: nn.Module, momentum: float, weight_decay: float, plain: tuple[str, ...] = PLAIN) -> None:
        self.momentum, self.weight_decay = momentum, weight_decay
        self.matrices: list[Tensor] = []
        others: list[Tensor] = []
        for name, p in net.named_parameters():
            if not p.requires_grad:
                continue
            (others if p.ndim < 2 or any(k in name for k in plain) else self.matrices).append(p)
        self.speed = [torch.zeros(p.shape[0], p.numel() // p.shape[0]) for p in self.matrices]
        self.others = Plain(others, 0.99, 0.01)

    @torch.no_grad()
    def step(self, rate: float) -> None:
        self.others.step(rate)
        m = self.momentum
        for p, v in zip(self.matrices, self.speed, strict=True):
            assert p.grad is not None
            g = _rows(p.grad)
            v.lerp_(g, 1 - m)
            u = orthogonal(torch.lerp(g, v, m))
            _rows(p).mul_(1 - rate * self.weight_decay).add_(u, alpha=-rate * 0.2 * max(v.shape) ** 0.5)

    def state(self) -> dict[str, Any]:
        return {"speed": self.speed, "others": self.others.state()}

    def restore(self, state: dict[str, Any]) -> None:
        self.speed = state["speed"]
        self.others.restore(state["others"])
