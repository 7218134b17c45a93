"""Makes the pictures in docs/screenshots from the demo, with the real window: `python scripts/screenshots.py`."""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from waldrand.demo import load_demo
from waldrand.desk.look import SPRUCE
from waldrand.desk.window import MainWindow
from waldrand.packs.onnx_pack import OnnxPack

OUT = Path(__file__).parent.parent / "docs" / "screenshots"


def main() -> None:
    app = QApplication(sys.argv[:1])
    app.setStyle("Fusion")
    window = MainWindow(OnnxPack())
    window.resize(1280, 800)
    window.show()

    def shoot(name: str) -> None:
        for _ in range(8):
            app.processEvents()
        window.refresh_forecast()
        app.processEvents()
        window.grab().save(str(OUT / f"{name}.png"))

    def run() -> None:
        window.run()
        while window.runner.running or window.passes.stop.isVisible():
            app.processEvents()

    shoot("empty")
    window.open_demo()
    demo = load_demo()
    window.view.choose(window.document.sheet.elements[3].key)
    shoot("lay-out")
    window.view.choose(None)
    run()
    window.view.show_outlines(False)
    while window.tray.current is None or window.tray.current.take.seed != demo.keep:
        window.tray.step(1)
    shoot("takes")
    window.keep()
    window.view.show_outlines(True)
    window.document.edit(replace(window.document.sheet, mask=demo.mask), "paint mask")
    window.view.set_tool("brush")
    window.document.set_draft(
        replace(
            window.document.draft,
            kind="inpaint",
            words=demo.words,
            takes=1,
            settings=replace(window.document.draft.settings, seed=demo.inpaint.seed),
        ).with_strength(demo.inpaint.strength)
    )
    shoot("inpaint")
    run()
    window.view.set_tool("arrange")
    window.keep()
    window.empty_mask()
    window.view.show_outlines(False)
    window.set_look(SPRUCE)
    shoot("kept-dark")


if __name__ == "__main__":
    main()
