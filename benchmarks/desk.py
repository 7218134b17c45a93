"""Milliseconds per frame on a large sheet: panning, zooming, brushing, dragging an element; the forecast; choosing one of 200 elements;
how long the window stands still while a sheet is saved; and seconds from the start to a usable window with the demo.

`python benchmarks/desk.py [--side 4096]`, drawn offscreen.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
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
    time_choosing(window, n)
    time_saving(window)
    window.document.saved(Path("none"), window.document.moment)
    window.close()
    time_start()


def time_choosing(window: MainWindow, n: int) -> None:
    """Each of 200 elements chosen, one after another."""
    boxes = [(i % 20 * n / 20, i // 20 * n / 10) for i in range(200)]
    elements = tuple(Element(100 + i, f"e{i}", Outline("box", (x, y, x + n / 25, y + n / 14)), "red") for i, (x, y) in enumerate(boxes))
    window.document.edit(replace(window.document.sheet, elements=elements), "many")
    window.view.set_tool("arrange")
    out = []
    for i in range(60):
        t = time.perf_counter()
        window.view.selection.choose(elements[i * 3].key)
        QApplication.processEvents()
        out.append(1000 * (time.perf_counter() - t))
    print(f"{'choose, of 200':14s} {spread(out)}")


def time_saving(window: MainWindow) -> None:
    """The longest that nothing moved while the sheet was written, against how long the writing took."""
    with tempfile.TemporaryDirectory() as folder:
        window.document.path = Path(folder) / "a.ora"
        ended, stills, last = list[float](), list[float](), time.perf_counter()
        begun = last
        window.save()
        while window.bench.beside.busy:
            QApplication.processEvents()
            now = time.perf_counter()
            stills.append(now - last)
            last = now
            time.sleep(0.002)
        ended.append(time.perf_counter() - begun)
    print(f"saving         took {ended[0]:.2f} s; the window stood still for {1000 * max(stills):.0f} ms at the most")


def time_start() -> None:
    """A program of its own that opens the demo: until its window is painted, and all that is read first."""
    code = (
        "import time; t = time.perf_counter(); import os; from PyQt6.QtCore import QTimer; from PyQt6.QtWidgets import QApplication\n"
        "from waldrand.desk import app\n"
        "def look():\n"
        "    w = next((w for w in QApplication.topLevelWidgets() if hasattr(w, 'live') and w.live.begun), None)\n"
        "    if w is not None: w.repaint(); print(time.perf_counter() - t, flush=True); os._exit(0)\n"
        "    QTimer.singleShot(5, look)\n"
        "a = QApplication([])\n"
        "QTimer.singleShot(0, look)\n"
        "app.open_window(demo=True)\n"
    )
    took = []
    for _ in range(3):
        out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False).stdout.split()
        took.append(float(out[-1]))
    print(f"start to a usable window with the demo: {min(took):.2f} s (of three: {', '.join(f'{t:.2f}' for t in took)})")


if __name__ == "__main__":
    main()
