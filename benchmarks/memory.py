"""How much memory the largest sheet takes: opened, looked at, foreseen, inpainted, saved; and a picture enlarged.

Each step in a process of its own, whose greatest memory is told when it ends; beside it how many times the picture's own pixels that is.

    python benchmarks/memory.py [--side 10000] [--steps open look ...]
"""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from machine import describe

from waldrand.core.passes.enlarge import crisp
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.resize import scaled
from waldrand.core.values.sheet import Sheet
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.packs.onnx_pack import OnnxPack

ENLARGED, BY = 4900, 2.04


def largest(side: int) -> Sheet:
    """A sheet whose picture, and a held painted outline, fill it."""
    row = np.linspace(0, 255, side).astype(np.uint8)
    pixels = np.empty((side, side, 4), np.uint8)
    pixels[..., 0], pixels[..., 1], pixels[..., 2], pixels[..., 3] = row, row[:, None], 90, 255
    mask = np.zeros((side, side), np.uint8)
    mask[side // 4 :, : side // 2] = 255
    held = Element(2, "held", Outline("mask", (0, 0, side, side), mask=mask), hold=True)
    spot, _ = Mask(side, side).dab(0.75 * side, 0.3 * side, 150, 0.4)
    return Sheet(side, side, (PictureLayer(1, "picture", pixels),), (held,), SceneWords("meadow, clear day"), spot)


def looked(path: Path, forecast: bool) -> None:
    from PyQt6.QtCore import QEvent
    from PyQt6.QtWidgets import QApplication

    from waldrand.desk.window import MainWindow

    app = QApplication([])
    window = MainWindow(OnnxPack())
    window.resize(1280, 800)
    window.show()
    window.open_file(path)
    for scale in (None, 1.0, 4.0):
        window.view.fit() if scale is None else window.view.zoom_to(scale)
        app.processEvents()
        window.grab()
    if forecast:
        for kind in ("inpaint", "rework"):
            window.document.set_draft(replace(window.document.draft, kind=kind))
            window.refresh_forecast()
            app.processEvents()
    window.deleteLater()
    app.sendPostedEvents(window, QEvent.Type.DeferredDelete)


def inpainted(path: Path, out: Path | None) -> None:
    pack, sheet = OnnxPack(), open_sheet(path).sheet
    p = plan(sheet, Request("inpaint", PassSettings(strength=1.0, steps=4), "owl"), pack)
    done = run_take(p, pack, 1).laid_on(sheet, "owl")
    if out is None:
        done.flatten()
    else:
        save_sheet(out, done)


def enlarged() -> None:
    pixels = np.full((ENLARGED, ENLARGED, 4), 200, np.uint8)
    pixels[..., 3] = 255
    sheet, pack = Sheet(ENLARGED, ENLARGED, (PictureLayer(1, "p", pixels),)), OnnxPack()
    side = round(ENLARGED * BY)
    # What is drawn does not matter for the memory, and drawing four thousand pieces would take an hour.
    pack.encode = lambda picture: picture[:1, :1].transpose(2, 0, 1)  # type: ignore[method-assign]
    pack.decode = lambda latent, painted=None: np.broadcast_to(latent.transpose(1, 2, 0), (640, 640, 3))  # type: ignore[method-assign]
    scaled(sheet, side, side, lambda picture, h, w: crisp(picture, h, w, pack))


STEPS: dict[str, Callable[[Path], None]] = {
    "make and save": lambda path: save_sheet(path, largest(int(os.environ["SIDE"]))),
    "open": lambda path: open_sheet(path) and None,
    "open and look": lambda path: looked(path, False),
    "look and forecast": lambda path: looked(path, True),
    "inpaint and see": lambda path: inpainted(path, None),
    "inpaint and save": lambda path: inpainted(path, path.with_name("again.ora")),
    f"enlarge {ENLARGED} by {BY}": lambda path: enlarged(),
}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--side", type=int, default=10_000)
    parser.add_argument("--steps", nargs="*", default=list(STEPS), choices=list(STEPS))
    parser.add_argument("--one", nargs=2, metavar=("STEP", "FILE"), help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.one:
        STEPS[options.one[0]](Path(options.one[1]))
        print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024)
        return
    print(describe())
    own = options.side**2 * 4
    print(f"{options.side} x {options.side} pixels: {own / 1e6:.0f} MB by themselves\n")
    print(f"{'step':24} {'greatest MB':>12} {'times its pixels':>17} {'seconds':>9}")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "largest.ora"
        wanted = list(dict.fromkeys(["make and save", *options.steps]))
        for step in wanted:
            start = time.perf_counter()
            command = [sys.executable, __file__, "--one", step, str(path)]
            done = subprocess.run(command, capture_output=True, text=True, env={**os.environ, "SIDE": str(options.side)}, check=False)
            if done.returncode:
                print(f"{step:24} {'failed: ' + done.stderr.strip().splitlines()[-1]}")
                continue
            most = int(done.stdout.strip().splitlines()[-1])
            print(f"{step:24} {most / 1e6:12.0f} {most / own:17.1f} {time.perf_counter() - start:9.1f}")


if __name__ == "__main__":
    main()
