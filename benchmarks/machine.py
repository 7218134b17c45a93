"""What a benchmark's table says of the machine, and of its numbers."""

from __future__ import annotations

import argparse
import os
import platform
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import onnxruntime

from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.find import finder_of
from waldrand.packs.manifest import read_manifest
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


def pack_options(parser: argparse.ArgumentParser) -> None:
    """Adds which pack paints, how it is guided, and which one's finder judges: only by one judge can packs be compared."""
    parser.add_argument("--pack", type=Path, help="the pack that paints; the installed one if not given")
    parser.add_argument("--judge", type=Path, help="the pack whose finder judges; the painting one's if not given")
    parser.add_argument("--guided", type=float, nargs=2, help="noise levels at which guidance leads; the pack's if not given")
    parser.add_argument("--lead-kept", type=float, help="over how much of a level guidance is kept; the pack's if not given")


def drawing_option(parser: argparse.ArgumentParser) -> None:
    """Adds how strictly drawings and sketches are followed."""
    usual = PassSettings().drawing_guidance
    parser.add_argument("--drawing-guidance", type=float, default=usual, help="how strictly drawings are followed, 0 to 2")


def judging_pack(options: argparse.Namespace) -> OnnxPack:
    """The pack that paints, as it was asked for, with the finder that judges; the benchmark ends, saying why, when there is none."""
    try:
        pack = OnnxPack(options.pack)
        if options.judge is not None:
            pack.finder = finder_of(OnnxPack(options.judge))
        if options.guided is not None:
            pack.info = replace(pack.info, guided=tuple(options.guided))
        if options.lead_kept is not None:
            pack.info = replace(pack.info, lead_kept=options.lead_kept)
        finder_of(pack)
    except ValueError as error:
        sys.exit(str(error))
    return pack


def named(pack: OnnxPack, options: argparse.Namespace) -> str:
    """Which pack it is, how it is guided, and whose finder judges."""
    judge = f", judged by {read_manifest(options.judge).info.version}" if options.judge else ""
    least, greatest = pack.info.guided
    return f"pack {pack.info.name} {pack.info.version}, guided from {least:g} to {greatest:g}, kept over {pack.info.lead_kept:g}{judge}"


def begun(parser: argparse.ArgumentParser, told: Callable[[argparse.Namespace], str]) -> tuple[argparse.Namespace, OnnxPack]:
    """The options of a benchmark that a finder judges, and its pack; says first what runs. told: of the options, what there is of
    everything."""
    pack_options(parser)
    options = parser.parse_args()
    pack = judging_pack(options)
    print(f"{describe()}; {named(pack, options)}; {told(options)}")
    return options, pack


def spread(milliseconds: list[float]) -> str:
    """Median and 95th percentile."""
    return f"{np.median(milliseconds):8.1f} {np.percentile(milliseconds, 95):8.1f}"
