"""Which numbers the training computes with: bfloat16 where the processor multiplies them in matrix units, float32 elsewhere."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import torch


@cache
def has_bfloat16_units() -> bool:
    """Whether the processor has matrix units for bfloat16. Without them bfloat16 is emulated, and slower than float32."""
    try:
        flags = Path("/proc/cpuinfo").read_text()
    except OSError:
        return False
    return "amx_bf16" in flags or "avx512_bf16" in flags


def fast() -> torch.autocast:
    """A context in which networks compute as fast as this processor can."""
    return torch.autocast("cpu", torch.bfloat16, enabled=has_bfloat16_units())
