"""Makes the pictures in docs/screenshots from the demo, with the real window: `python scripts/screenshots.py`."""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QWidget

from waldrand.core.passes.kinds import empty_kind
from waldrand.core.values.element import SceneWords
from waldrand.core.values.emphasis import emphasised
from waldrand.core.values.frame import Rect
from waldrand.core.values.resize import framed
from waldrand.demo import load_demo
from waldrand.desk.look.look import PARCHMENT, SPRUCE
from waldrand.desk.settings_page import SettingsPage
from waldrand.desk.takes_page import TakesPage
from waldrand.desk.window import MainWindow
from waldrand.packs.onnx_pack import OnnxPack

OUT = Path(__file__).parent.parent / "docs" / "screenshots"


def main() -> None:
    app = QApplication(sys.argv[:1])
    app.setStyle("Fusion")
    window = MainWindow(OnnxPack())
    window.resize(1280, 800)
    window.show()
    window.painting.measure_speed()

    def shoot(name: str, what: QWidget = window) -> None:
        for _ in range(8):
            app.processEvents()
        window.refresh_forecast()
        app.processEvents()
        what.grab().save(str(OUT / f"{name}.png"))

    def until_done() -> None:
        while window.runner.running or window.passes.stop.isVisible():
            app.processEvents()

    def run() -> None:
        window.run()
        until_done()

    window.bench.start.begin()
    shoot("empty")
    window.bench.start.hide()
    settings = SettingsPage(window.preferences, window.pack.info, window)
    settings.show()
    shoot("settings", settings)
    settings.close()
    document = window.document
    words = "starry night, meadow, forest, crescent moon, birch, white cottage, red fox beside an owl"
    document.edit(replace(document.sheet, scene=SceneWords(words)), "scene")
    window.arranging.give_places()
    shoot("places")
    document.undo.undo()
    document.undo.undo()
    window.say("")
    window.open_demo()
    demo = load_demo()
    words = document.sheet.scene.words
    spans = emphasised(words, (), 0, 0.4)
    document.edit(replace(document.sheet, scene=replace(document.sheet.scene, emphasis=spans)), "emphasis")
    window.view.selection.choose(document.sheet.elements[3].key)
    shoot("lay-out")
    window.set_look(SPRUCE)
    shoot("lay-out-dark")
    window.set_look(PARCHMENT)
    document.undo.undo()
    live(window)
    shoot("live")
    document.undo.undo()
    window.live.on = False
    window.live.clear()
    window.view.selection.choose(None)
    window.view.set_tool("frame")
    document.set_draft(replace(document.draft, own_frame=(230, 120, 512, 440)), "frame")
    window.refresh_forecast()
    shoot("frame")
    document.undo.undo()
    window.view.set_tool("arrange")
    e = document.sheet.elements
    document.edit(document.sheet.with_element(replace(e[4], outline=e[4].outline.moved(200, 0), words="red fox, fuchsia")), "move")
    document.edit(document.sheet.with_element(replace(e[3], weight=3.5)), "weight")
    shoot("forecast")
    document.undo.undo()
    document.undo.undo()
    run()
    window.view.canvas.show_outlines(False)
    window.tray.list.setCurrentRow(0)
    window.tray.compare()
    window.tray.list.setCurrentRow(1)
    shoot("takes")
    page = TakesPage([window.takes.on_page(t) for t in window.tray.takes], 1, window.view.backgroundBrush().color(), window)
    page.show()
    shoot("all-takes", page)
    page.close()
    window.tray.compare()
    while window.tray.current is None or window.tray.current.take.seed != demo.keep:
        window.tray.step(1)
    window.tray.partner = None
    window.takes.keep()
    document.set_draft(replace(document.draft, kind="rework", settings=replace(document.draft.settings, seed=demo.keep)))
    window.series.run_ladder()
    until_done()
    window.tray.list.setCurrentRow(window.tray.list.count() - 6)
    shoot("ladder")
    window.tray.rest()
    window.view.canvas.show_outlines(True)
    document.edit(replace(document.sheet, mask=demo.mask), "paint mask")
    window.view.set_tool("brush")
    document.set_draft(
        replace(
            document.draft,
            kind="inpaint",
            words=demo.words,
            takes=1,
            settings=replace(document.draft.settings, seed=demo.inpaint.seed),
        ).with_strength(demo.inpaint.strength)
    )
    shoot("inpaint")
    run()
    window.view.set_tool("arrange")
    window.takes.keep()
    window.maps.empty_mask()
    window.view.canvas.show_outlines(False)
    window.view.selection.choose_layer(document.sheet.layers[-1].key)
    window.set_look(SPRUCE)
    shoot("kept-dark")
    window.set_look(PARCHMENT)
    window.view.selection.choose(None)
    wider = framed(document.sheet, Rect(0, 0, 768, 512))
    document.edit_both(wider, replace(document.draft, kind=empty_kind().name, words="", takes=1), "wider")
    window.view.set_tool("edges")
    window.view.fit()
    run()
    shoot("extend")
    window.takes.keep()
    window.view.set_tool("arrange")
    window.view.canvas.show_outlines(True)
    window.resize(2560, 1600)
    app.processEvents()
    window.view.fit()
    window.view.selection.set(e.key for e in document.sheet.elements[2:])
    shoot("large")
    # As large pictures go it would weigh more than all others together.
    QImage(str(OUT / "large.png")).save(str(OUT / "large.jpg"), quality=88)
    (OUT / "large.png").unlink()
    window.deleteLater()
    app.sendPostedEvents(window, QEvent.Type.DeferredDelete)


def live(window: MainWindow) -> None:
    """An element is dragged, and the rough picture settles."""
    window.live.on = True
    settled: list[int] = []
    window.live.settled.connect(lambda: settled.append(1))
    sheet = window.document.sheet
    e = sheet.elements[4]
    window.view.selection.choose(e.key)
    window.document.edit(sheet.with_element(replace(e, outline=e.outline.moved(-24, 6))), "move")
    while not settled:
        QApplication.processEvents()


if __name__ == "__main__":
    main()
