"""The denoiser, its reader of words, and the enlarger."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import torch
import torch.nn.functional as F
from torch import Tensor, nn

from waldrand.core.told import look

from .guides import PER_CELL, Guide, LookReader

NONE, SCENE, ELEMENT = 0, 1, 2
#: Natural logarithms of how visible a phrase is outside its outline, nobody's phrase everywhere, and a row without a phrase.
FLOOR, NOBODY, ABSENT = -12.0, -6.0, -40.0
FINE_GROUP = 8


def _attend(q: Tensor, k: Tensor, v: Tensor, bias: Tensor | None) -> Tensor:
    # Plain products: the fused attention is slow to train on a CPU.
    a = torch.matmul(q * q.shape[-1] ** -0.5, k.transpose(-1, -2))
    if bias is not None:
        a = a + bias.to(a.dtype)
    return torch.matmul(torch.softmax(a, -1, dtype=a.dtype), v)


def _heads(x: Tensor, n: int) -> Tensor:
    b, length, c = x.shape
    return x.reshape(b, length, n, c // n).transpose(1, 2)


def _join(x: Tensor) -> Tensor:
    b, n, length, c = x.shape
    return x.transpose(1, 2).reshape(b, length, n * c)


class TextLayer(nn.Module):
    """Words of one phrase look at each other."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.norm1, self.norm2 = nn.LayerNorm(width), nn.LayerNorm(width)
        self.qkv, self.out = nn.Linear(width, 3 * width), nn.Linear(width, width)
        self.up, self.down = nn.Linear(width, 2 * width), nn.Linear(2 * width, width)

    def forward(self, x: Tensor, bias: Tensor) -> Tensor:
        q, k, v = (_heads(t, 4) for t in self.qkv(self.norm1(x)).chunk(3, -1))
        x = x + self.out(_join(_attend(q, k, v, bias)))
        return x + self.down(F.silu(self.up(self.norm2(x))))


class Text(nn.Module):
    """Phrases as word ids (R, L), 0 for nothing -> one vector each, (R, width)."""

    def __init__(self, words: int, width: int, layers: int, length: int) -> None:
        super().__init__()
        self.embed = nn.Embedding(words, width)
        self.place = nn.Parameter(torch.randn(length, width) * 0.02)
        self.layers = nn.ModuleList(TextLayer(width) for _ in range(layers))
        self.norm = nn.LayerNorm(width)

    def forward(self, ids: Tensor) -> Tensor:
        on = (ids > 0).to(self.place.dtype)
        x = self.embed(ids) + self.place
        bias = (on - 1)[:, None, None, :] * 30
        for layer in self.layers:
            x = layer(x, bias)
        total = on.sum(1, keepdim=True)
        pooled = (x * on[..., None]).sum(1) / total.clamp(min=1)
        return self.norm(pooled) * (total > 0).to(x.dtype)


class Residual(nn.Module):
    def __init__(self, i: int, o: int, e: int, groups: int = 8) -> None:
        super().__init__()
        self.norm1, self.conv1 = nn.GroupNorm(groups, i), nn.Conv2d(i, o, 3, padding=1)
        self.norm2, self.conv2 = nn.GroupNorm(groups, o), nn.Conv2d(o, o, 3, padding=1)
        self.shift = nn.Linear(e, 2 * o)
        self.skip = nn.Conv2d(i, o, 1) if i != o else nn.Identity()
        nn.init.zeros_(self.conv2.weight)
        nn.init.zeros_(self.conv2.bias)  # type: ignore[arg-type]

    def forward(self, x: Tensor, e: Tensor) -> Tensor:
        h = self.conv1(F.silu(self.norm1(x)))
        scale, shift = self.shift(e)[:, :, None, None].chunk(2, 1)
        return self.skip(x) + self.conv2(F.silu(self.norm2(h) * (1 + scale) + shift))


class Attention(nn.Module):
    """Cells look at each other, then at the phrases that they may see."""

    def __init__(self, c: int, d: int) -> None:
        super().__init__()
        self.heads = c // 32
        self.norm1, self.qkv, self.out1 = nn.GroupNorm(8, c), nn.Conv2d(c, 3 * c, 1), nn.Conv2d(c, c, 1)
        self.norm2, self.q, self.kv, self.out2 = nn.GroupNorm(8, c), nn.Conv2d(c, c, 1), nn.Linear(d, 2 * c), nn.Conv2d(c, c, 1)
        nn.init.zeros_(self.out1.weight)
        nn.init.zeros_(self.out2.weight)

    def forward(self, x: Tensor, phrases: Tensor, bias: Tensor) -> Tensor:
        b, c, h, w = x.shape

        def flat(t: Tensor) -> Tensor:
            return t.flatten(2).transpose(1, 2)

        def square(t: Tensor) -> Tensor:
            return t.transpose(1, 2).reshape(b, c, h, w)

        q, k, v = (_heads(flat(t), self.heads) for t in self.qkv(self.norm1(x)).chunk(3, 1))
        x = x + self.out1(square(_join(_attend(q, k, v, None))))
        q = _heads(flat(self.q(self.norm2(x))), self.heads)
        k, v = (_heads(t, self.heads) for t in self.kv(phrases).chunk(2, -1))
        return x + self.out2(square(_join(_attend(q, k, v, bias[:, None]))))


class Denoiser(nn.Module):
    """Predicts the flow v = noise - picture of a noisy latent, told by phrases and their outlines.

    Inputs: noisy and kept (B, C, h, w), h and w multiples of 4; hole (B, 1, h, w), 1 where painted;
    t (B,); phrases (B, R, d) from `Text`; kind (B, R) of NONE, SCENE, ELEMENT as float;
    outline (B, R, h, w) 0..1 and weight (B, R) 0..4 of each phrase (a scene's outline is not read); and, where there is any, lines and
    depth (B, 1, 4 h, 4 w) 0..1 with how much each is given (B, 2) 0..1, see `Guide`.
    A phrase is visible by bias log(max(weight * outline, e^-12)); for the scene the outline counts as 1. Rows of kind NONE are not
    visible, but one phrase that is nobody's is, faintly, everywhere: cells that no phrase is for listen to it instead of to all elements.
    """

    def __init__(self, latent: int, channels: Sequence[int], d: int) -> None:
        super().__init__()
        a, b, c = channels
        e = 256
        # Groups of a fixed size at the finest level, so that it can be widened and still give what it gave.
        fine = a // FINE_GROUP
        self.kind = nn.Embedding(3, d)
        self.mix = nn.Sequential(nn.Linear(d, 2 * d), nn.SiLU(), nn.Linear(2 * d, d))
        self.pool = nn.Linear(d, e)
        self.time1, self.time2 = nn.Linear(128, e), nn.Linear(e, e)
        self.into = nn.Conv2d(2 * latent + 1, a, 3, padding=1)
        self.map_down = nn.ModuleList(nn.Conv2d(d + 1, n, 1) for n in (a, b, c))
        self.map_up = nn.ModuleList(nn.Conv2d(d + 1, n, 1) for n in (a, b))
        self.down0 = nn.ModuleList(Residual(a, a, e, fine) for _ in range(2))
        self.shrink0 = nn.Conv2d(a, b, 3, 2, 1)
        self.down1 = nn.ModuleList(Residual(b, b, e) for _ in range(2))
        self.look1 = nn.ModuleList(Attention(b, d) for _ in range(2))
        self.shrink1 = nn.Conv2d(b, c, 3, 2, 1)
        self.down2 = nn.ModuleList(Residual(c, c, e) for _ in range(2))
        self.look2 = nn.ModuleList(Attention(c, d) for _ in range(3))
        self.up2 = Residual(2 * c, c, e)
        self.grow1 = nn.Conv2d(c, b, 3, padding=1)
        self.up1 = nn.ModuleList(Residual(2 * b, b, e) for _ in range(2))
        self.look_up1 = nn.ModuleList(Attention(b, d) for _ in range(2))
        self.grow0 = nn.Conv2d(b, a, 3, padding=1)
        self.up0 = nn.ModuleList(Residual(2 * a, a, e, fine) for _ in range(2))
        self.norm = nn.GroupNorm(fine, a)
        self.out = nn.Conv2d(a, latent, 3, padding=1)
        self.through = nn.Linear(e, latent)
        self.guide = Guide(a)
        for last in (self.out, self.through):
            nn.init.zeros_(last.weight)
            nn.init.zeros_(last.bias)  # type: ignore[arg-type]

    def forward(
        self,
        noisy: Tensor,
        kept: Tensor,
        hole: Tensor,
        t: Tensor,
        phrases: Tensor,
        kind: Tensor,
        outline: Tensor,
        weight: Tensor,
        lines: Tensor | None = None,
        depth: Tensor | None = None,
        given: Tensor | None = None,
    ) -> Tensor:
        if lines is None or depth is None or given is None:
            lines = depth = noisy.new_zeros(len(noisy), 1, *(PER_CELL * side for side in noisy.shape[2:]))
            given = noisy.new_zeros(len(noisy), 2)
        guide_down, guide_up = self.guide(lines, depth, given)
        f = torch.exp(torch.arange(64, device=t.device, dtype=t.dtype) * (-math.log(10000) / 64))
        angle = t[:, None] * 1000 * f[None]
        time = self.time2(F.silu(self.time1(torch.cat([angle.cos(), angle.sin()], 1))))
        # Nobody's phrase comes last.
        phrases, kind, weight = F.pad(phrases, (0, 0, 0, 1)), F.pad(kind, (0, 1)), F.pad(weight, (0, 1))
        outline = F.pad(outline, (0, 0, 0, 0, 0, 1))
        on = (kind > 0.5).to(noisy.dtype)
        hidden = F.pad((1 - on[:, :-1]) * (ABSENT - FLOOR), (0, 1), value=NOBODY - FLOOR)
        scene = on * (kind < 1.5).to(noisy.dtype)
        element = (kind > 1.5).to(noisy.dtype)
        # A sum over the three kinds instead of a lookup, so that `kind` stays a float like the rest.
        x = phrases + scene[..., None] * self.kind.weight[SCENE] + element[..., None] * self.kind.weight[ELEMENT]
        x = x + self.mix(x)
        told = (x * (scene * weight)[..., None]).sum(1) / (scene * weight).sum(1, keepdim=True).clamp(min=1)
        e = F.silu(time + self.pool(told))

        share = (element * weight)[..., None, None] * outline
        covered = (element[..., None, None] * outline).sum(1, keepdim=True).clamp(max=1)
        place = torch.einsum("brd,brhw->bdhw", x.to(share.dtype), share) / share.sum(1, keepdim=True).clamp(min=1)
        maps = [torch.cat([place, covered], 1)]
        maps += [F.avg_pool2d(maps[0], 2), F.avg_pool2d(maps[0], 4)]

        floor = math.exp(FLOOR)

        def seen(k: int) -> Tensor:
            visible = element[..., None, None] * F.avg_pool2d(outline, k) + scene[..., None, None]
            return (torch.log((visible * weight[..., None, None]).clamp(min=floor)) + hidden[..., None, None]).flatten(2).transpose(1, 2)

        bias1, bias2 = seen(2), seen(4)
        h = self.into(torch.cat([noisy, kept, hole], 1)) + self.map_down[0](maps[0]) + guide_down
        h = k0 = self.down0[0](h, e)
        h = k1 = self.down0[1](h, e)
        h = self.shrink0(h) + self.map_down[1](maps[1])
        h = k2 = self.look1[0](self.down1[0](h, e), x, bias1)
        h = k3 = self.look1[1](self.down1[1](h, e), x, bias1)
        h = self.shrink1(h) + self.map_down[2](maps[2])
        h = k4 = self.look2[0](self.down2[0](h, e), x, bias2)
        h = self.look2[1](self.down2[1](h, e), x, bias2)
        h = self.look2[2](self.up2(torch.cat([h, k4], 1), e), x, bias2)
        h = self.grow1(F.interpolate(h, scale_factor=2.0, mode="nearest")) + self.map_up[1](maps[1])
        h = self.look_up1[0](self.up1[0](torch.cat([h, k3], 1), e), x, bias1)
        h = self.look_up1[1](self.up1[1](torch.cat([h, k2], 1), e), x, bias1)
        h = self.grow0(F.interpolate(h, scale_factor=2.0, mode="nearest")) + self.map_up[0](maps[0]) + guide_up
        h = self.up0[0](torch.cat([h, k1], 1), e)
        h = self.up0[1](torch.cat([h, k0], 1), e)
        # Most of the flow is the noise itself: carried past the network, it need not be carried through it.
        return self.out(F.silu(self.norm(h))) + self.through(e)[:, :, None, None] * noisy


class Painter(nn.Module):
    """Readers of words and of looks, and denoiser, as they are trained together."""

    def __init__(self, words: int, latent: int, channels: Sequence[int], d: int, layers: int, length: int) -> None:
        super().__init__()
        self.text = Text(words, d, layers, length)
        self.look = LookReader(look.length(latent), d)
        self.denoiser = Denoiser(latent, channels, d)

    def forward(
        self,
        noisy: Tensor,
        kept: Tensor,
        hole: Tensor,
        t: Tensor,
        ids: Tensor,
        kind: Tensor,
        outline: Tensor,
        weight: Tensor,
        guides: tuple[Tensor, Tensor, Tensor] | None = None,
        looks: Tensor | None = None,
    ) -> Tensor:
        """guides: lines, depth and how much each is given. looks (B, S): the last row is what they say, whatever its ids."""
        b, r, length = ids.shape
        phrases = self.text(ids.reshape(b * r, length)).reshape(b, r, -1)
        if looks is not None:
            phrases = torch.cat([phrases[:, :-1], self.look(looks)[:, None]], 1)
        return self.denoiser(noisy, kept, hole, t, phrases, kind, outline, weight, *(guides or ()))


def cubic(d: Tensor) -> Tensor:
    """Weight of a pixel at distance d in bicubic interpolation with a = -0.75 (Keys, 1981)."""
    d, a = d.abs(), -0.75
    near, far = (a + 2) * d**3 - (a + 3) * d**2 + 1, a * (d**3 - 5 * d**2 + 8 * d - 4)
    return torch.where(d <= 1, near, torch.where(d < 2, far, torch.zeros_like(d)))


def linear(d: Tensor) -> Tensor:
    """The same in bilinear interpolation."""
    return (1 - d.abs()).clamp(min=0)


class Spread(nn.Module):
    """Pictures (B, C, h, w) -> (B, C, by h, by w), interpolated as torch's `interpolate` does it, but as one convolution, which
    onnxruntime computes much faster than a resizing. reach: pixels on either side that count."""

    def __init__(self, channels: int, by: int, kernel: Callable[[Tensor], Tensor], reach: int) -> None:
        super().__init__()
        self.by, self.reach = by, reach
        places = (torch.arange(by) + 0.5) / by - 0.5
        taps = kernel(places[:, None] - torch.arange(-reach, reach + 1))
        weight = torch.einsum("yj,xi->yxji", taps, taps).reshape(by * by, 1, 2 * reach + 1, 2 * reach + 1)
        self.register_buffer("weight", weight.repeat(channels, 1, 1, 1), persistent=False)

    def forward(self, x: Tensor) -> Tensor:
        wide = F.pad(x, (self.reach,) * 4, mode="replicate")
        assert isinstance(self.weight, Tensor)
        return F.pixel_shuffle(F.conv2d(wide, self.weight, groups=len(self.weight) // self.by**2), self.by)


class EnlargerBlock(nn.Module):
    def __init__(self, c: int) -> None:
        super().__init__()
        self.a, self.b = nn.Conv2d(c, c, 3, padding=1), nn.Conv2d(c, c, 3, padding=1)
        nn.init.zeros_(self.b.weight)

    def forward(self, x: Tensor) -> Tensor:
        return x + self.b(F.silu(self.a(x)))


class Enlarger(nn.Module):
    """Pictures (B, 3, h, w) in -1..1, and where a denoiser painted them (B, 1, h, w) 0..1 -> (B, 3, 4 h, 4 w): bicubic plus what was
    learned. What was painted is mended, what was not is only drawn sharper."""

    def __init__(self, channels: int, blocks: int) -> None:
        super().__init__()
        self.into = nn.Conv2d(4, channels, 3, padding=1)
        self.blocks = nn.Sequential(*(EnlargerBlock(channels) for _ in range(blocks)))
        self.out = nn.Conv2d(channels, 48, 3, padding=1)
        nn.init.zeros_(self.out.weight)
        nn.init.zeros_(self.out.bias)  # type: ignore[arg-type]
        self.rough = Spread(3, 4, cubic, 2)

    def forward(self, x: Tensor, painted: Tensor) -> Tensor:
        return self.rough(x) + F.pixel_shuffle(self.out(self.blocks(self.into(torch.cat([x, painted], 1)))), 4)


class DrawnEnlarger(nn.Module):
    """An enlarger that is also told where edges are to lie: lines (B, 1, 4 h, 4 w) 0..1 of the large picture. It looks from farther off
    too, so that what lies between two lines can agree on its colour. Begins as the enlarger that it is given."""

    def __init__(self, enlarger: Enlarger, wide: int = 128, deep: int = 4) -> None:
        super().__init__()
        c = enlarger.into.out_channels
        self.enlarger = enlarger
        self.lines1, self.lines2 = nn.Conv2d(17, c // 2, 3, padding=1), nn.Conv2d(c // 2, c, 3, padding=1)
        self.shrink1, self.shrink2 = nn.Conv2d(c, wide, 4, 2, 1), nn.Conv2d(wide, wide, 4, 2, 1)
        self.far = nn.ModuleList(nn.Conv2d(wide, wide, 3, padding=1) for _ in range(deep))
        self.grow2, self.grow1 = nn.Conv2d(wide, wide, 3, padding=1), nn.Conv2d(wide, c, 3, padding=1)
        self.out = nn.Conv2d(c, 48, 3, padding=1)
        for last in (self.lines2, self.grow1, self.out):
            nn.init.zeros_(last.weight)
            nn.init.zeros_(last.bias)  # type: ignore[arg-type]

    def forward(self, x: Tensor, painted: Tensor, lines: Tensor) -> Tensor:
        e = self.enlarger
        # A line's absence is told as well: so it was trained, with pictures of which nothing was drawn.
        given = (lines.amax((1, 2, 3), keepdim=True) > 0).to(x.dtype).expand(-1, 1, *x.shape[2:])
        told = torch.cat([F.pixel_unshuffle(lines, 4), given], 1)
        h = e.into(torch.cat([x, painted], 1)) + self.lines2(F.silu(self.lines1(told)))
        h = e.blocks[1](e.blocks[0](h))
        near = F.silu(self.shrink1(h))
        off = F.silu(self.shrink2(near))
        for layer in self.far:
            off = off + F.silu(layer(off))
        off = F.interpolate(self.grow2(off), scale_factor=2.0, mode="nearest") + near
        h = h + self.grow1(F.interpolate(F.silu(off), scale_factor=2.0, mode="nearest"))
        for block in list(e.blocks)[2:]:
            h = block(h)
        return e.rough(x) + F.pixel_shuffle(e.out(h) + self.out(F.silu(h)), 4)


class LightEnlarger(nn.Module):
    """What a `DrawnEnlarger` does, in a quarter of its time: narrow where the picture is fine, wide where it is coarse."""

    def __init__(self, fine: int = 48, middle: int = 96, coarse: int = 128, deep: int = 3) -> None:
        super().__init__()
        self.into = nn.Conv2d(21, fine, 3, padding=1)
        self.first, self.last = EnlargerBlock(fine), EnlargerBlock(fine)
        self.shrink1, self.shrink2 = nn.Conv2d(fine, middle, 4, 2, 1), nn.Conv2d(middle, coarse, 4, 2, 1)
        self.down, self.up = EnlargerBlock(middle), EnlargerBlock(middle)
        self.far = nn.ModuleList(nn.Conv2d(coarse, coarse, 3, padding=1) for _ in range(deep))
        self.grow2, self.grow1 = nn.Conv2d(coarse, middle, 3, padding=1), nn.Conv2d(middle, fine, 3, padding=1)
        self.out = nn.Conv2d(fine, 48, 3, padding=1)
        nn.init.zeros_(self.out.weight)
        nn.init.zeros_(self.out.bias)  # type: ignore[arg-type]
        self.rough = Spread(3, 4, cubic, 2)

    def forward(self, x: Tensor, painted: Tensor, lines: Tensor) -> Tensor:
        given = (lines.amax((1, 2, 3), keepdim=True) > 0).to(x.dtype).expand(-1, 1, *x.shape[2:])
        fine = self.first(self.into(torch.cat([x, painted, F.pixel_unshuffle(lines, 4), given], 1)))
        middle = self.down(F.silu(self.shrink1(fine)))
        off = F.silu(self.shrink2(middle))
        for layer in self.far:
            off = off + F.silu(layer(off))
        middle = self.up(middle + F.interpolate(self.grow2(off), scale_factor=2.0, mode="nearest"))
        fine = self.last(fine + F.interpolate(self.grow1(F.silu(middle)), scale_factor=2.0, mode="nearest"))
        return self.rough(x) + F.pixel_shuffle(self.out(F.silu(fine)), 4)


class FinderBlock(nn.Module):
    def __init__(self, i: int, o: int) -> None:
        super().__init__()
        self.norm1, self.conv1 = nn.GroupNorm(8, i), nn.Conv2d(i, o, 3, padding=1)
        self.norm2, self.conv2 = nn.GroupNorm(8, o), nn.Conv2d(o, o, 3, padding=1)
        self.skip = nn.Conv2d(i, o, 1) if i != o else nn.Identity()

    def forward(self, x: Tensor) -> Tensor:
        h = self.conv2(F.silu(self.norm2(self.conv1(F.silu(self.norm1(x))))))
        return self.skip(x) + h


class Finder(nn.Module):
    """Small pictures (B, 3, 4 h, 4 w) in -1..1 -> what is seen in each cell (B, K + T + 1, h, w), as logits of K kinds, of T traits
    and of no kind at all, and each of the scene's labels in the whole (B, S), as logits. h and w are multiples of 4."""

    def __init__(self, kinds: int, traits: int, whole: int, channels: Sequence[int]) -> None:
        super().__init__()
        self.kinds = kinds
        a, b, c, d = channels
        self.stem = nn.Conv2d(3, a, 5, stride=2, padding=2)
        self.low = FinderBlock(a, a)
        self.shrink1 = nn.Conv2d(a, b, 3, 2, 1)
        self.cell = nn.Sequential(FinderBlock(b, b), FinderBlock(b, b))
        self.shrink2 = nn.Conv2d(b, c, 3, 2, 1)
        self.middle = nn.Sequential(FinderBlock(c, c), FinderBlock(c, c))
        self.shrink3 = nn.Conv2d(c, d, 3, 2, 1)
        self.quarter = nn.Sequential(FinderBlock(d, d), FinderBlock(d, d), FinderBlock(d, d))
        self.wide = nn.Linear(d, d)
        self.up2 = FinderBlock(c + d, c)
        self.up1 = FinderBlock(b + c, b)
        self.out = nn.Conv2d(b, kinds + traits + 1, 1)
        self.whole = nn.Linear(d, whole)

    def forward(self, picture: Tensor) -> tuple[Tensor, Tensor]:
        cell, half, quarter = self._levels(picture)
        mean = quarter.mean((2, 3))
        # What kind of place it is helps to tell what stands in it.
        quarter = quarter + self.wide(F.silu(mean))[:, :, None, None]
        h = self.up2(torch.cat([half, F.interpolate(quarter, scale_factor=2.0, mode="nearest")], 1))
        h = self.up1(torch.cat([cell, F.interpolate(h, scale_factor=2.0, mode="nearest")], 1))
        return self.out(F.silu(h)), self.whole(F.silu(mean))

    def parted(self, cells: Tensor) -> tuple[Tensor, Tensor]:
        """Logits of the kinds, with that of none last, and of the traits. A cell shows one kind, but may have any traits."""
        return torch.cat([cells[:, : self.kinds], cells[:, -1:]], 1), cells[:, self.kinds : -1]

    def certainties(self, cells: Tensor) -> Tensor:
        """0..1 for each kind, then each trait, (B, K + T, h, w)."""
        kinds, traits = self.parted(cells)
        return torch.cat([torch.softmax(kinds, 1)[:, :-1], torch.sigmoid(traits)], 1)

    def features(self, picture: Tensor) -> Tensor:
        """What the picture as a whole looks like to it, (B, d): the means of its coarsest level."""
        return self._levels(picture)[2].mean((2, 3))

    def _levels(self, picture: Tensor) -> tuple[Tensor, Tensor, Tensor]:
        cell = self.cell(self.shrink1(self.low(self.stem(picture))))
        half = self.middle(self.shrink2(cell))
        return cell, half, self.quarter(self.shrink3(half))
