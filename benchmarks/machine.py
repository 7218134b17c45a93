"""What a benchmark's table says of the machine, and of its numbers."""

from __future__ import annotations

import os
import platform

import numpy as np
import onnxruntime


def describe() -> str:
    """One line: processor, cores, versions."""
    name = platform.processor() or platform.machine()
    try:
        with open("/proc/cpuinfo") as f:
            name = next(line.split(":")[1].strip() for line in f if line.startswith("model name"))
    except (OSError, StopIteration):
        pass
    return f"{name}, {os.cpu_count()} cores, Python {platform.python_version()}, onnxruntime {onnxruntime.__version__}"


def spread(milliseconds: list[float]) -> str:
    """Median and 95th percentile."""
    return f"{np.median(milliseconds):8.1f} {np.percentile(milliseconds, 95):8.1f}"
