from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# Settings and unsaved work of the tests are not those of whoever runs them.
_home = tempfile.mkdtemp(prefix="waldrand-test-")
os.environ |= {"XDG_CONFIG_HOME": _home, "XDG_DATA_HOME": _home, "XDG_STATE_HOME": _home, "XDG_CACHE_HOME": _home}
# No test may fail because the machine was busy.
settings.register_profile("waldrand", deadline=None)
settings.load_profile("waldrand")

from by_hand import draw, key, opened, run, say_scene
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.log import begin_logging
from waldrand.packs.closed_form import ClosedFormPack
from waldrand.packs.onnx_pack import OnnxPack

begin_logging()


@pytest.fixture(autouse=True)
def nothing_kept() -> None:
    """Nobody has set, opened or saved anything before a test, whichever tests ran before it."""
    QSettings("Waldrand", "Waldrand").clear()


@pytest.fixture(scope="session")
def closed() -> ClosedFormPack:
    return ClosedFormPack()


@pytest.fixture(scope="session")
def own() -> OnnxPack:
    return OnnxPack()


@pytest.fixture
def painted() -> Sheet:
    """A 256 x 256 sheet with a picture of smooth colours and fine noise, and a scene."""
    yy, xx = np.mgrid[:256, :256]
    rgb = np.stack([xx * 0.7, yy * 0.7, (xx + yy) * 0.3], -1) + np.random.default_rng(1).normal(0, 8, (256, 256, 3))
    pixels = np.dstack([np.clip(rgb, 0, 255), np.full((256, 256), 255)]).astype(np.uint8)
    return Sheet(256, 256, (PictureLayer(1, "ground", pixels),), scene=SceneWords("green"))


@pytest.fixture
def placed() -> Sheet:
    """An empty 256 x 256 sheet with a blue element on the left and a red one on the right."""
    return Sheet(
        256,
        256,
        elements=(
            Element(1, "lake", Outline("box", (16, 64, 112, 240)), "blue"),
            Element(2, "roof", Outline("ellipse", (144, 64, 240, 240)), "red"),
        ),
        scene=SceneWords("white"),
    )


@pytest.fixture
def round_mask() -> Mask:
    mask, _ = Mask(256, 256).dab(120, 100, 45, 0.5)
    return mask


@pytest.fixture
def picture_file(tmp_path: Path, painted: Sheet) -> Path:
    from waldrand.files.pictures import write_png

    path = tmp_path / "ground.png"
    write_png(path, painted.flatten())
    return path


@pytest.fixture
def wait() -> Iterator[Callable[[Callable[[], bool]], None]]:
    """Lets the window work until something is so."""

    def until(done: Callable[[], bool]) -> None:
        for _ in range(3000):
            if done():
                return
            QTest.qWait(10)
        raise AssertionError("it never came about")

    return until


@pytest.fixture(scope="session")
def app():
    app = QApplication.instance() or QApplication([])
    app.setStyle("Fusion")
    return app


@pytest.fixture
def window(app, closed):
    with opened(closed) as w:
        yield w


@pytest.fixture
def with_take(window, wait):
    """A sheet with two elements, and one take shown."""
    draw(window, Qt.Key.Key_R, "blue", 10, 60, 110, 240)
    draw(window, Qt.Key.Key_E, "red", 140, 60, 240, 240)
    say_scene(window, "white")
    window.passes.takes.setValue(2)
    run(window, wait)
    return window


@pytest.fixture
def kept(with_take):
    key(with_take, Qt.Key.Key_K)
    return with_take


@pytest.fixture
def two(window):
    """Two elements, far from every line that snaps."""
    draw(window, Qt.Key.Key_R, "blue", 20, 30, 70, 90)
    draw(window, Qt.Key.Key_R, "red", 150, 160, 230, 240)
    window.view.selection.choose(None)
    return window
