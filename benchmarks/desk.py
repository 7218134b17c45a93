"""Milliseconds per frame on a large sheet: panning, zooming, brushing, dragging an element; and the forecast.

`python benchmarks/desk.py [--side 4096]`, drawn offscreen.
"""

from __future__ import annotations

import argparse
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

import numpy as np
from machine import describe, spread
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.values.element import Element
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.desk.window import MainWindow
from waldrand.packs.closed_form import ClosedFormPack


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--side", type=int, default=4096)
    options = parser.parse_args()
    n = options.side
    app = QApplication([])
    window = MainWindow(ClosedFormPack())
    window.resize(1280, 800)
    window.show()
    pixels = np.random.default_rng(0).integers(0, 255, (n, n, 4)).astype(np.uint8)
    pixels[..., 3] = 255
    t = time.perf_counter()
    window.document.open(Sheet(n, n, (PictureLayer(1, "noise", pixels),)))
    for i in range(20):
        x, y = (i % 5) * n / 5, (i // 5) * n / 4
        e = Element(10 + i, f"e{i}", Outline("ellipse" if i % 2 else "box", (x, y, x + n / 4, y + n / 3)), "red")
        window.document.edit(window.document.sheet.with_element(e), "add")
    app.processEvents()
    print(f"{describe()}; {n} x {n} sheet with 20 elements, window 1280 x 800, opened in {time.perf_counter() - t:.2f} s")
    print("what            median ms   p95 ms")
    view = window.view
    port = view.viewport()

    def frames(name: str, act: Callable[[int], object], count: int = 60) -> None:
        out = []
        for i in range(count):
            t0 = time.perf_counter()
            act(i)
            port.repaint()
            out.append(1000 * (time.perf_counter() - t0))
        print(f"{name:14s} {spread(out)}")

    frames("zoom", lambda i: view.zoom_to(view.scale_now * (1.15 if i % 30 < 15 else 1 / 1.15)))
    view.fit()
    frames("pan, fitted", lambda i: view.pan(7 if i % 2 else -5, 3))
    view.zoom_to(1.0)
    frames("pan, 1:1", lambda i: view.pan(13 if i % 40 < 20 else -13, 9 if i % 20 < 10 else -9))
    view.fit()
    view.set_tool("brush")
    view.brush.set(radius=120, softness=0.5)
    start = view.mapFromScene(QPointF(n * 0.2, n * 0.2))
    QTest.mousePress(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    frames(
        "brush, fitted", lambda i: QTest.mouseMove(port, view.mapFromScene(QPointF(n * (0.2 + 0.01 * i), n * (0.3 + 0.1 * np.sin(i / 5)))))
    )
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    view.set_tool("arrange")
    here = view.mapFromScene(QPointF(n * 0.12, n * 0.12))
    QTest.mousePress(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, here)
    frames("drag element", lambda i: QTest.mouseMove(port, view.mapFromScene(QPointF(n * (0.12 + 0.004 * i), n * 0.13))))
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, here)
    frames("forecast", lambda i: window.refresh_forecast(), 20)
    grip = view.canvas.leading_item()
    assert grip is not None
    corner = grip.handle_rects()[4].center()
    QTest.mousePress(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, view.mapFromScene(corner))
    frames("resize element", lambda i: QTest.mouseMove(port, view.mapFromScene(QPointF(corner.x() + 0.003 * n * i, corner.y()))))
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, view.mapFromScene(corner))
    window.document.saved(None, window.document.moment)
    window.close()


if __name__ == "__main__":
    main()
