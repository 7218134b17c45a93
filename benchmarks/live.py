"""Live: seconds from a change to its first sight and to the picture at rest, pictures a second while the hand drags, and what that
costs the hand: milliseconds per frame of a drag and of the brush, live on against off.

`python benchmarks/live.py [--rounds 12]`, drawn offscreen, with the pack that is installed; the hand works over a picture either way.
`--table` prints instead how near pictures of few steps come to a whole take, and what they take: steps, sampler, guidance and size.
"""

from __future__ import annotations

import argparse
import os
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent))

import numpy as np
from machine import describe, spread
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.passes.painting import painted
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.rough import rough_stage
from waldrand.core.passes.run import run_take
from waldrand.core.passes.watch import Watch
from waldrand.core.values.masks import Mask
from waldrand.core.values.sheet import Sheet
from waldrand.demo import load_demo
from waldrand.desk.jobs.kindly import begun_kindly
from waldrand.desk.window import MainWindow
from waldrand.packs.onnx_pack import OnnxPack

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def moved(window: MainWindow, by: float) -> None:
    sheet = window.document.sheet
    e = sheet.elements[-1]
    window.document.edit(sheet.with_element(replace(e, outline=e.outline.moved(by, 0))), "move", "move")


def times(window: MainWindow, change: Callable[[int], None], rounds: int) -> tuple[list[float], list[float]]:
    """Milliseconds to the first sight and to the picture at rest, one change after another."""
    sights, rests = [], []
    for i in range(rounds):
        begun, seen = time.perf_counter(), list[float]()
        rest = list[float]()

        def formed(*formed: object, begun: float = begun, seen: list[float] = seen) -> None:
            seen.append(1000 * (time.perf_counter() - begun))

        def settled(begun: float = begun, rest: list[float] = rest) -> None:
            rest.append(1000 * (time.perf_counter() - begun))

        window.live._painter.formed.connect(formed)
        window.live.settled.connect(settled)
        change(i)
        while not rest:
            QTest.qWait(2)
        window.live._painter.formed.disconnect(formed)
        window.live.settled.disconnect(settled)
        sights.append(seen[0])
        rests.append(rest[0])
    return sights, rests


def dragged(window: MainWindow, frames: int, x: float, y: float, tool: str) -> tuple[list[float], int]:
    """Milliseconds of each frame of a drag, as often as a screen shows one, and how many pictures formed meanwhile."""
    view, port, out, pictures = window.view, window.view.viewport(), [], [0]
    assert port is not None
    view.set_tool(tool)

    def count(*formed: object) -> None:
        pictures[0] += 1

    window.live._painter.formed.connect(count)
    start = view.mapFromScene(QPointF(x, y))
    QTest.mousePress(port, LEFT, NONE, start)
    for i in range(frames):
        at = QPointF(view.mapFromScene(QPointF(x + 0.4 * i, y + 8 * np.sin(i / 9))))
        t = time.perf_counter()
        QApplication.sendEvent(port, QMouseEvent(QEvent.Type.MouseMove, at, QPointF(port.mapToGlobal(at.toPoint())), LEFT, LEFT, NONE))
        port.repaint()
        took = time.perf_counter() - t
        out.append(1000 * took)
        QTest.qWait(max(1, round(1000 / 60 - 1000 * took)))
    QTest.mouseRelease(port, LEFT, NONE, start)
    window.live._painter.formed.disconnect(count)
    return out, pictures[0]


def table(pack: OnnxPack) -> None:
    """Pictures of few steps against a whole take of 20, of the demo, the same seed."""
    demo = load_demo()
    sheet, settings = demo.layout.sheet, replace(demo.layout.settings, seed=7)
    whole = run_take(plan(sheet, Request("compose", settings), pack), pack, 7).pixels.astype(float)
    base = rough_stage(sheet, Request("compose", settings), pack)
    print("side  steps  sampler  guidance  seconds  mean difference from the whole take, of 255")
    for side in (512, 384, 320):
        for steps, sampler, guidance in (
            (2, "second", 1.0),
            (3, "second", 1.0),
            (4, "second", 1.0),
            (4, "first", 1.0),
            (2, "heun", 1.0),
            (3, "second", 3.0),
            (4, "second", 3.0),
            (6, "second", 1.0),
            (6, "second", 3.0),
        ):
            own = replace(base.settings, steps=steps, sampler=sampler, guidance=guidance)
            stage = replace(
                base, settings=own, guided=base.guided if guidance != 1 else None, frame=replace(base.frame, width=side, height=side)
            )
            took = []
            for _ in range(3):
                t = time.perf_counter()
                made = painted(stage, sheet, pack, Watch())
                took.append(time.perf_counter() - t)
            apart = np.abs(made.astype(float) - whole).mean()
            print(f"{side:4d}  {steps:5d}  {sampler:7s}  {guidance:8g}  {min(took):7.2f}  {apart:6.1f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=12)
    parser.add_argument("--table", action="store_true")
    options = parser.parse_args()
    print(describe())
    if options.table:
        table(OnnxPack())
        return
    app = QApplication([])
    window = MainWindow(begun_kindly(OnnxPack)())
    window.resize(1280, 800)
    window.show()
    window.open_demo()
    window.live.switch(True)
    app.processEvents()
    print("what                       median ms   p95 ms")

    def show(name: str, change: Callable[[int], None]) -> None:
        times(window, change, 2)
        sights, rests = times(window, change, options.rounds)
        print(f"{name + ', first sight':26s} {spread(sights)}")
        print(f"{name + ', at rest':26s} {spread(rests)}")

    show("compose", lambda i: moved(window, 3.0 if i % 2 else -3.0))
    window.live.clear()
    sheet: Sheet = window.document.sheet
    take = run_take(plan(sheet, window.document.draft.request(), window.pack), window.pack, 1)
    window.document.edit(sheet.with_layer(take.to_patch(sheet.next_key(), "take")), "keep")
    window.document.set_draft(replace(window.document.draft, kind="rework"))
    show("rework at 0.35", lambda i: moved(window, 3.0 if i % 2 else -3.0))
    mask, _ = Mask(sheet.width, sheet.height).dab(sheet.width / 3, sheet.height / 2, 60, 0.3)
    window.document.edit(replace(window.document.sheet, mask=mask), "mask")
    window.document.set_draft(replace(window.document.draft, kind="inpaint", words="owl"))
    show("inpaint", lambda i: window.document.set_draft(window.document.draft.with_value("seed", i % 2 + 1)))
    window.document.set_draft(replace(window.document.draft, kind="compose"))
    window.document.edit(sheet, "without a picture")
    x0, y0, x1, y1 = window.document.sheet.elements[-1].outline.box
    for name, tool in (("drag", "arrange"), ("brush", "brush")):
        medians = {}
        for on in (False, True):
            window.live.switch(on)
            # A picture under the outlines costs the hand something by itself.
            window.view.canvas.show_overlay(None if on else take.pixels, sheet.rect)
            QTest.qWait(100)
            begun = time.perf_counter()
            frames, pictures = dragged(window, 120, (x0 + x1) / 2, (y0 + y1) / 2, tool)
            medians[on] = float(np.median(frames))
            told = f"{pictures / (time.perf_counter() - begun):.1f} pictures a second" if on and tool == "arrange" else ""
            print(f"{name + ', live ' + ('on' if on else 'off'):26s} {spread(frames)}   {told}")
            window.document.undo.undo()
        print(f"{name}, live on against off: {medians[True] / medians[False]:.2f} times")
    window.live.end()
    window.document.saved(Path("none"), window.document.moment)
    window.deleteLater()
    app.sendPostedEvents(window, QEvent.Type.DeferredDelete)


if __name__ == "__main__":
    main()
