"""Starts the window."""

from __future__ import annotations

import os
import signal
import sys
from importlib.resources import files
from pathlib import Path

from PyQt6.QtCore import QEvent, QLocale, QSize, QTimer
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from ..core.packs import Pack
from ..core.refused import Refused
from ..log import LOG
from ..packs.onnx_pack import THREADS
from ..packs.opened import open_pack
from .jobs.kindly import begun_kindly
from .mistakes import survive
from .preferences import Preferences, read_preferences
from .tongue import speak_as

SIZE = (1280, 800)
#: Screen pixels of a window's title bar, at the most.
TITLE = 40


def _pack(preferences: Preferences) -> Pack:
    """The pack that is wanted; where that cannot be read the installed one, so that the settings can be put right."""
    threads = preferences.threads or THREADS
    if preferences.pack_at is not None:
        try:
            return open_pack(preferences.pack_at, threads, preferences.access)
        except Refused as error:
            LOG.warning("the pack of the settings: %s", error)
    return open_pack(threads=threads)


def open_window(file: Path | None = None, demo: bool = False) -> int:
    """Opens the window, with a file or the demo if asked, and runs until it is closed.

    Raises:
        Refused: there is no display, or the pack or the file cannot be opened.
    """
    if not any(os.environ.get(v) for v in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        raise Refused("There is no display to open a window on. Everything works without one too: see waldrand --help.")
    preferences = read_preferences()
    loaded = begun_kindly(lambda: _pack(preferences))
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Waldrand")
    app.setDesktopFileName("waldrand")
    app.setStyle("Fusion")
    speak_as(QLocale())
    app.setWindowIcon(QIcon(str(files("waldrand") / "data" / "waldrand.svg")))
    # Read while the pack is: both take their time.
    from .window import MainWindow

    window = MainWindow(loaded())
    survive(window.say)
    LOG.info("window opened with %s %s", window.pack.info.name, window.pack.info.version)
    screen = app.primaryScreen()
    room = screen.availableSize() if screen is not None else QSize(*SIZE)
    # With its title bar it has to fit the screen.
    window.resize(min(SIZE[0], room.width()), min(SIZE[1], room.height() - TITLE))
    if file is not None:
        window.open_file(file)
    elif demo:
        window.open_demo()
    window.show()
    window.begin()
    # Python hears Ctrl+C only when it gets to run.
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    ticker = QTimer()
    ticker.start(200)
    ticker.timeout.connect(lambda: None)
    status = int(app.exec())
    # The window goes before the application it belongs to: Python would let them go in any order.
    window.deleteLater()
    app.sendPostedEvents(window, QEvent.Type.DeferredDelete)
    return status
