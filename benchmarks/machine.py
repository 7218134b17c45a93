"""What a benchmark's table says of the machine, and of its numbers."""

from __future__ import annotations

import os
import platform
import sys

import numpy as np
import onnxruntime

from waldrand.core.found import finder_of
from waldrand.packs.onnx_pack import OnnxPack


def describe() -> str:
    """One line: processor, cores, versions."""
    name = platform.processor() or platform.machine()
    try:
        with open("/proc/cpuinfo") as f:
            name = next(line.split(":")[1].strip() for line in f if line.startswith("model name"))
    except (OSError, StopIteration):
        pass
    return f"{name}, {os.cpu_count()} cores, Python {platform.python_version()}, onnxruntime {onnxruntime.__version__}"


def judging_pack() -> OnnxPack:
    """The installed pack; the benchmark ends, saying why, when it has no finder to judge by."""
    pack = OnnxPack()
    try:
        finder_of(pack)
    except ValueError as error:
        sys.exit(str(error))
    return pack


def spread(milliseconds: list[float]) -> str:
    """Median and 95th percentile."""
    return f"{np.median(milliseconds):8.1f} {np.percentile(milliseconds, 95):8.1f}"
