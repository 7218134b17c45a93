"""Milliseconds per frame on a large sheet: panning, zooming, brushing, dragging an element; a layer scaled and turned by its handles,
colours painted, lines drawn, light and match of a layer as large as the sheet; the forecast; choosing one of 200 elements; how long
the window stands still while a sheet is saved; and seconds from the start to a usable window with the demo.

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
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

import numpy as np
from machine import describe, spread
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.picture.adjusting import Adjustment
from waldrand.core.values.belonging import belonging
from waldrand.core.values.element import Element
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.pencil import Pencil
from waldrand.core.values.sheet import Sheet
from waldrand.core.values.strokes import Stroke
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
    frames = partial(time_frames, window)
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
    time_layers(window, n)
    time_choosing(window, n)
    time_saving(window)
    window.document.saved(Path("none"), window.document.moment)
    window.close()
    time_start()


def time_frames(window: MainWindow, name: str, act: Callable[[int], object], count: int = 60) -> None:
    """Milliseconds of acts, each with what is drawn after it."""
    out = []
    for i in range(count):
        t = time.perf_counter()
        act(i)
        window.view.viewport().repaint()
        out.append(1000 * (time.perf_counter() - t))
    print(f"{name:14s} {spread(out)}")


def time_layers(window: MainWindow, n: int) -> None:
    """A cut-out of a third of the sheet's side by its handles, colours painted, and light and match of a layer over the whole sheet."""
    view, port, frames = window.view, window.view.viewport(), partial(time_frames, window)
    side = n // 3
    card = np.random.default_rng(1).integers(0, 255, (side, side, 4)).astype(np.uint8)
    yy, xx = np.mgrid[:side, :side] - side / 2
    card[..., 3] = np.clip((0.45 * side - np.hypot(yy, xx)) * 60, 0, 255)
    window.document.edit(replace(window.document.sheet, elements=()), "none")
    sheet = window.document.sheet
    window.document.edit(sheet.with_layer(PictureLayer(sheet.next_key(), "card", card, side, side)), "card")
    view.set_tool("arrange")
    view.selection.choose_layer(window.document.sheet.layers[-1].key)
    QApplication.processEvents()
    for name, (x, y) in (("scale a layer", (2 * side, 2 * side)), ("turn a layer", (1.5 * side, side - 26 / view.scale_now))):
        at = view.mapFromScene(QPointF(x, y))
        QTest.mousePress(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        frames(name, lambda i, x=x, y=y: QTest.mouseMove(port, view.mapFromScene(QPointF(x + 0.003 * n * i, y + 0.002 * n * i))))  # type: ignore[misc]
        QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        window.document.undo.undo()
        QApplication.processEvents()
    view.set_tool("paint")
    view.brush.set(radius=120, softness=0.5)
    start = view.mapFromScene(QPointF(n * 0.2, n * 0.2))
    QTest.mousePress(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    frames(
        "paint colours", lambda i: QTest.mouseMove(port, view.mapFromScene(QPointF(n * (0.2 + 0.01 * i), n * (0.3 + 0.1 * np.sin(i / 5)))))
    )
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    view.set_tool("pen")
    QTest.mousePress(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    frames("pen", lambda i: QTest.mouseMove(port, view.mapFromScene(QPointF(n * (0.2 + 0.01 * i), n * (0.5 + 0.05 * np.sin(i / 3))))))
    QTest.mouseRelease(port, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    stroke = Stroke(tuple((n * 0.3 + 4.0 * i, n * 0.6 + 30.0 * np.sin(i / 9), 3.0) for i in range(200)))

    def draw(i: int) -> None:
        sheet = window.document.sheet
        drawing = sheet.layers[-1]
        assert isinstance(drawing, Pencil)
        window.document.edit(sheet.with_layer(drawing.with_stroke(stroke.moved(0, 12 * i))), "draw")

    frames("a stroke done", draw, 30)
    window.document.edit(window.document.sheet.without_layer(window.document.sheet.layers[-1].key), "away")
    view.set_tool("arrange")
    view.selection.choose_layer(window.document.sheet.layers[0].key)
    frames("light, whole", lambda i: window.bench.layering.adjust(Adjustment(exposure=0.01 * (i + 1))), 12)
    frames("curve, whole", lambda i: window.bench.layering.adjust(Adjustment(curve=((0.0, 0.0), (0.5, 0.5 + 0.01 * i), (1.0, 1.0)))), 12)
    key = window.document.sheet.layers[1].key
    view.selection.choose_layer(key)
    frames("match", lambda i: window.document.edit(belonging(window.document.sheet, key, 0.05 * (i + 1), 0.0), "match", "m"), 12)
    frames("no seam", lambda i: window.document.edit(belonging(window.document.sheet, key, 0.5, 0.05 * (i + 1)), "match", "m"), 12)


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
