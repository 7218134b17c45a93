"""Makes the pictures in docs/screenshots from the demo, with the real window: `python scripts/screenshots.py`."""

from __future__ import annotations

import math
import sys
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication, QToolButton, QWidget

from waldrand.core.passes.enlarge import crisp
from waldrand.core.passes.kinds import empty_kind, tiled_kind
from waldrand.core.picture.adjusting import Adjustment
from waldrand.core.values.emphasis import emphasised
from waldrand.core.values.frame import Rect
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.paint import PaintLayer
from waldrand.core.values.pencil import Pencil
from waldrand.core.values.resize import framed, scaled
from waldrand.core.values.shaping import drawn
from waldrand.core.values.sheet import Sheet
from waldrand.core.values.strokes import Stroke
from waldrand.demo import load_demo
from waldrand.demo_day import Day
from waldrand.desk.look.look import PARCHMENT, SPRUCE
from waldrand.desk.settings_page import SettingsPage
from waldrand.desk.takes_page import TakesPage
from waldrand.desk.window import MainWindow
from waldrand.packs.onnx_pack import OnnxPack

OUT = Path(__file__).parent.parent / "docs" / "screenshots"


def drawing(window: MainWindow) -> None:
    """A horizon with a hill drawn over the sheet, and the fox's sketch turned into strokes."""
    document, view = window.document, window.view
    view.selection.choose(None)
    rise = [(x, 250 - 34 * math.exp(-(((x - 330) / 90) ** 2)), 2.5) for x in range(0, 513, 6)]
    hill = Pencil.new(document.sheet.next_key(), "horizon", 512, 512).with_stroke(Stroke(tuple(rise)).smoothed())
    document.edit(document.sheet.with_layer(hill), "draw")
    view.selection.choose(document.sheet.elements[-1].key)
    window.bench.guiding.sketches_to_strokes()


def main() -> None:
    app = QApplication(sys.argv[:1])
    app.setStyle("Fusion")
    window = MainWindow(OnnxPack())
    window.resize(1280, 800)
    window.show()
    window.painting.measure_speed()

    def settled() -> None:
        for _ in range(8):
            app.processEvents()

    def shoot(name: str, what: QWidget = window) -> None:
        settled()
        window.refresh_forecast()
        settled()
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
    window.say("")
    window.open_demo()
    demo = load_demo()
    words = document.sheet.scene.words
    spans = emphasised(words, (), 0, 0.4)
    document.edit(replace(document.sheet, scene=replace(document.sheet.scene, emphasis=spans)), "emphasis")
    window.view.selection.choose(document.sheet.elements[3].key)
    shoot("lay-out")
    document.undo.undo()
    drawing(window)
    window.passes.fold.unfold(True)
    shoot("drawing")
    window.passes.fold.unfold(False)
    while document.sheet.guides():
        document.undo.undo()
    window.view.set_tool("arrange")
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
    kept = document.sheet
    wider = framed(document.sheet, Rect(0, 0, 768, 512))
    draft = document.draft.turned_to(empty_kind())
    document.edit_both(wider, replace(draft, settings=replace(draft.settings, seed=1), words="", takes=1), "wider")
    window.view.set_tool("edges")
    window.view.fit()
    run()
    shoot("extend")
    window.takes.keep()
    window.view.set_tool("arrange")
    window.view.canvas.show_outlines(True)
    second_half(window, kept, shoot, run)
    window.painting.forget()
    finish(window, kept, shoot, run)
    window.deleteLater()
    app.sendPostedEvents(window, QEvent.Type.DeferredDelete)


def finish(window: MainWindow, kept: Sheet, shoot: Callable[[str], None], run: Callable[[], None]) -> None:
    """Parts that are found, what a sentence comes to, and the picture enlarged and refined; on the picture of the demo."""
    document = window.document

    def found() -> None:
        window.refresh_forecast()
        window.painting.looking.finish()
        window.refresh_forecast()

    bare = replace(kept, elements=(), divisions=(), mask=None)
    window.opening.document.open(bare, replace(window.opening.blank_draft(), takes=1))
    window.tray.clear()
    window.view.set_tool("arrange")
    window.view.fit()
    window.bench.habits.turn_to_touch_up()
    document.set_draft(document.draft.with_value("parts", "windows, doors, owl, fox"))
    found()
    window.passes.found.setCurrentRow(0)
    shoot("touch-up")
    window.bench.habits.turn_to_sentence()
    said = "turn the fox into a dog, paint the cottage yellow, move the moon to the right and add two sheep in the foreground"
    document.set_draft(document.draft.with_value("sentence", said))
    window.view.setFocus()
    found()
    shoot("edit")
    larger = scaled(bare, 1536, 1536, partial(crisp, pack=window.pack))
    draft = replace(document.draft.turned_to(tiled_kind()), takes=1).with_strength(0.75)
    document.edit_both(larger, draft, "larger")
    window.view.fit()
    found()
    run()
    while window.bench.beside.busy:
        QApplication.processEvents()
    shoot("refine")


def second_half(window: MainWindow, kept: Sheet, shoot: Callable[[str], None], run: Callable[[], None]) -> None:
    """A tent brought in and held, what was lettered, and colours painted under a pass."""
    document, view = window.document, window.view
    day = Day(load_demo().layout.settings, window.pack, None, None)
    tented = day.tent(day.deer(day.without_owl(day.wider(kept))))
    document.edit(replace(tented, elements=(), divisions=()), "tent")
    view.set_tool("arrange")
    view.fit()
    turned = tented.layers[-1].as_picture()
    view.selection.choose_layer(turned.key)
    strip = window.bench.layer_strip
    next(button for button in strip.findChildren(QToolButton) if button.text() == "light").setChecked(True)
    window.bench.layering.adjust(Adjustment(exposure=0.2, temperature=0.15, curve=((0.0, 0.0), (0.4, 0.46), (1.0, 1.0))))
    shoot("layers")
    document.edit(day.lettered(day.settled(document.sheet)), "letters")
    view.selection.choose_layer(document.sheet.layers[-1].key)
    next(button for button in strip.findChildren(QToolButton) if button.text() == "letters").setChecked(True)
    shoot("letters")
    view.selection.choose_layer(None)
    window.painting.forget()
    document.edit(replace(kept, layers=kept.layers[:1], elements=(), divisions=(), mask=None), "composed")
    view.fit()
    crude = PaintLayer(document.sheet.next_key(), "colours 1", kept.width, kept.height)
    for shape, colour in CRUDE:
        crude = crude.painted(kept.rect, drawn(shape, kept.rect), colour)
    mask = Mask.from_array(drawn(Outline("box", (10, 310, 225, 495)), kept.rect))
    document.edit(replace(document.sheet.with_layer(crude), mask=mask), "colours")
    draft = replace(document.draft, kind="inpaint", words="red tent", settings=replace(document.draft.settings, seed=2), takes=1)
    document.set_draft(draft.with_strength(0.7))
    run()
    window.tray.rest()
    view.selection.choose_layer(crude.key)
    view.set_tool("paint")
    view.paints.set(colour=CRUDE[0][1])
    shoot("colours")


#: A tent as a child would paint it.
CRUDE = (
    (Outline("freehand", (30, 335, 200, 470), ((0.0, 1.0), (0.5, 0.0), (1.0, 1.0))), (190, 60, 50)),
    (Outline("freehand", (95, 385, 140, 470), ((0.0, 1.0), (0.5, 0.0), (1.0, 1.0))), (250, 225, 140)),
)


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
