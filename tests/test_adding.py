"""One more of everything that there can be more of: each is put in from here, and is then there everywhere."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
import pytest
from by_hand import drag, key, opened, run
from PyQt6.QtCore import Qt

from waldrand import commands
from waldrand.cli import main
from waldrand.core.fields import Field
from waldrand.core.passes import kinds
from waldrand.core.passes.kind import Kind
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.series import parse_over, run_variants, vary
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.stage import seen
from waldrand.core.passes.whole import whole_stage
from waldrand.core.refused import Refused
from waldrand.core.values import layers, sorts
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import Layer
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.desk import tools
from waldrand.desk.draft import Draft
from waldrand.desk.tools.hand import Hand
from waldrand.files import formats
from waldrand.files.formats import Format
from waldrand.files.opened import Opened
from waldrand.files.openraster import open_sheet, save_sheet
from waldrand.files.pictures import read_picture, read_recipe


class Blush(Kind):
    """The whole picture made redder, then reworked: a kind that nothing else knows of."""

    name = "blush"
    title = "Blush"
    tip = "Redden the picture and repaint it."
    begins = 0.4
    uses: ClassVar = ("words", "avoid", "strength", "seed", "steps", "guidance", "carry_detail")
    own: ClassVar = {
        "amount": Field(
            "number", 0.5, 0, 1, "The amount goes", label="amount", tip="How red.", option="how red, 0 to 1", step=0.1, decimals=1
        )
    }
    hears_elements = True

    def settled(self, sheet, request, pack):
        if not sheet.has_picture:
            raise Refused("There is nothing to redden.")
        return request

    def stages(self, sheet, request, pack, seed):
        amount = request.value("amount")

        def start(of, frame):
            picture = seen(of, frame)
            return None if picture is None else np.asarray(picture * (1 - amount) + np.float32([1, 0, 0]) * np.float32(amount), np.float32)

        return (replace(whole_stage(sheet, request, pack, seed), start=start),)

    def describe(self, sheet, request, stages, changed):
        return [f"Reddens by {request.value('amount'):.1f}."]


@pytest.fixture
def blush(monkeypatch):
    monkeypatch.setitem(kinds.KINDS, Blush.name, Blush())


QUICK = PassSettings(steps=3, strength=0.4, guidance=1.0)


def test_a_kind_of_pass_is_foreseen_run_and_repeated(blush, painted, closed):
    pale, red = (Request("blush", QUICK, more=(("amount", a),)) for a in (0.0, 0.9))
    p = plan(painted, red, closed)
    assert p.sentences[0] == "Reddens by 0.9."
    assert p.calls > 0
    takes = [run_take(plan(painted, request, closed), closed, 3) for request in (pale, red)]
    assert takes[1].pixels[..., 0].mean() > takes[0].pixels[..., 0].mean() + 5
    whole = takes[1].laid_on(painted, "red")
    recipe = json.loads(json.dumps(picture_recipe(whole)))
    assert recipe["passes"][0]["recipe"]["more"] == {"amount": 0.9}
    assert (repeat(recipe, closed, [painted.flatten()]).pixels == whole.flatten()).all()


def test_a_kinds_own_fields_are_checked(blush, painted, closed):
    with pytest.raises(Refused, match="The amount goes from 0 to 1"):
        plan(painted, Request("blush", QUICK, more=(("amount", 3.0),)), closed)
    with pytest.raises(Refused, match="nothing called “blueness”"):
        plan(painted, Request("blush", QUICK, more=(("blueness", 1.0),)), closed)
    with pytest.raises(Refused, match="nothing to redden"):
        plan(Sheet(256, 256), Request("blush", QUICK), closed)


def test_a_kind_of_pass_is_a_command(blush, picture_file, monkeypatch, capsys, closed, tmp_path):
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: closed)
    out = tmp_path / "red.png"
    asked = ["blush", str(picture_file), "--strength", "0.4", "--steps", "3", "--with-input", "--json", "--out"]
    assert main([*asked, str(out), "--amount", "0.8"]) == 0
    assert json.loads(capsys.readouterr().out)["forecast"]["sentences"][0] == "Reddens by 0.8."
    assert main(["repeat", str(out)]) == 0
    assert read_recipe(out)["passes"][0]["recipe"]["more"] == {"amount": 0.8}
    assert main([*asked, str(tmp_path / "b.png"), "--amount", "7"]) == 2
    assert "The amount goes from 0 to 1" in capsys.readouterr().err


def test_a_kind_of_pass_is_in_the_window(blush, app, closed, wait, painted, tmp_path):
    with opened(closed) as window:
        window.document.open(painted)
        window.passes.kinds["blush"].click()
        amount = next(row.field for name, row in window.passes._rows.items() if name == "amount")
        assert amount.isVisible()
        assert not window.passes.method.isVisible()
        amount.box.setValue(0.7)
        window.refresh_forecast()
        assert "Reddens by 0.7." in window.passes.forecast.text()
        window.passes.steps.setValue(3)
        window.passes.takes.setValue(1)
        run(window, wait)
        window.takes.keep()
        window.dialogs.path = tmp_path / "red.ora"
        assert window.save()
        assert window.saving.finish_saving()
        window.open_file(tmp_path / "red.ora")
        assert window.document.draft.kind == "blush"
        assert window.document.draft.value("amount") == 0.7
        window.passes.kinds["compose"].click()
        assert not amount.isVisible()


def test_a_kinds_settings_are_tried_at_several_values(blush, painted, closed):
    (row,) = vary(painted, Request("blush", QUICK), [parse_over("guidance=1,2")])
    assert [t.recipe["kind"] for _, t in run_variants(row, closed)] == ["blush", "blush"]


def test_drafts_of_kinds_that_are_gone_are_refused_and_their_values_left_out(blush, monkeypatch):
    d = Draft("blush").with_value("amount", 0.2)
    saved = d.to_json()
    assert Draft.from_json(saved) == d
    monkeypatch.delitem(kinds.KINDS, "blush")
    with pytest.raises(Refused, match="no kind of pass called “blush”"):
        Draft.from_json(saved)
    assert Draft.from_json(saved | {"kind": "compose"}).more == ()


class Stamp(Hand):
    """A tool that lays down a square of one size."""

    name, title, shortcut = "stamp", "Stamp", "Ctrl+Alt+K"
    tip, sign = "Stamp a square", "box"

    def press(self, p, event):
        self.view.laying.take_outline(Outline("box", (p.x() - 20, p.y() - 20, p.x() + 20, p.y() + 20)))


def test_a_tool_is_on_the_rail_and_in_the_hand(monkeypatch, app, closed):
    monkeypatch.setitem(tools.TOOLS, Stamp.name, Stamp)
    with opened(closed) as window:
        assert window.rail.tools["stamp"].toolTip() == "Stamp: stamp a square (Ctrl+Alt+K)"
        key(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        assert window.view.tool == "stamp"
        drag(window, 100, 100, 101, 101)
        (e,) = window.document.sheet.elements
        assert np.array(e.outline.box) == pytest.approx((80, 80, 120, 120), abs=1)


@dataclass(frozen=True, eq=False)
class Wash(Layer):
    """A rectangle of one colour, half clear."""

    sort: ClassVar[str] = "wash"
    rect: Rect
    colour: tuple[int, int, int]
    visible: bool = True

    @property
    def bounds(self) -> Rect:
        return self.rect

    @property
    def shown(self) -> np.ndarray:
        return np.full((self.rect.height, self.rect.width, 4), (*self.colour, 128), np.uint8)

    def lay_on(self, below, rect):
        there, here = layers.meet(self.rect, rect)
        below[there] = layers.lay_over(below[there], self.shown[here][..., :3], self.shown[here][..., 3])

    def moved(self, dx, dy):
        return replace(self, rect=self.rect.moved(dx, dy))

    def scaled(self, kx, ky, draw):
        return replace(self, rect=self._scaled_bounds(kx, ky))

    def to_json(self) -> dict[str, Any]:
        r = self.rect
        return {"sort": self.sort, "key": self.key, "name": self.name, "visible": self.visible, "rect": [r.x0, r.y0, r.x1, r.y1]} | {
            "colour": list(self.colour)
        }

    @classmethod
    def from_json(cls, key, name, visible, d, pixels, pictures):
        return cls(key, name, layers.rect_from_json(d["rect"], "A wash"), tuple(d["colour"]), visible)


def test_a_sort_of_layer_is_seen_saved_moved_and_scaled(monkeypatch, painted, tmp_path, app, closed):
    from waldrand.core.values.resize import framed, scaled

    monkeypatch.setitem(sorts.SORTS, Wash.sort, Wash)
    sheet = painted.with_layer(Wash(2, "dusk", Rect(-10, 20, 100, 90), (250, 0, 0)))
    seen_ = sheet.flatten()
    assert (seen_[30, 50, :3] != painted.flatten()[30, 50, :3]).any()
    assert (seen_[100:] == painted.flatten()[100:]).all()
    save_sheet(tmp_path / "w.ora", sheet)
    again = open_sheet(tmp_path / "w.ora").sheet
    assert isinstance(again.layers[1], Wash)
    assert (again.flatten() == seen_).all()
    assert framed(sheet, Rect(5, 5, 205, 205)).layers[1].bounds == Rect(-15, 15, 95, 85)
    assert scaled(sheet, 512, 512).layers[1].bounds == Rect(-20, 40, 200, 180)
    # Whoever does not know the sort says so; other programs see its picture.
    monkeypatch.delitem(sorts.SORTS, Wash.sort)
    with pytest.raises(Refused, match="no sort of layer called “wash”"):
        open_sheet(tmp_path / "w.ora")
    with opened(closed) as window:
        window.document.open(sheet)
        assert window.elements.layers.rung(2).words == "dusk"


def test_a_command_is_found_by_its_name(monkeypatch, tmp_path, capsys):
    (tmp_path / "count_words.py").write_text(
        '"""waldrand count-words."""\n\nHELP = "count words"\n\n\ndef add(p):\n    p.add_argument("words")\n\n\n'
        "def act(options, stop):\n    print(len(options.words.split()))\n    return 0\n"
    )
    monkeypatch.setattr(commands, "__path__", [*commands.__path__, str(tmp_path)])
    assert main(["count-words", "owl and moth"]) == 0
    assert capsys.readouterr().out == "3\n"
    with pytest.raises(SystemExit):
        main(["--help"])
    assert "count-words" in capsys.readouterr().out


def test_a_file_format_opens_in_the_window_and_by_command(monkeypatch, tmp_path, app, closed, capsys):
    def read(path: Path, scale_masks: bool) -> Opened:
        w, h, *words = path.read_text().split()
        sheet = Sheet(int(w), int(h))
        return Opened(replace(sheet, scene=replace(sheet.scene, words=" ".join(words))), asked=PassSettings(steps=2))

    monkeypatch.setattr(formats, "FORMATS", [*formats.FORMATS, Format("note", (".note",), read)])
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: closed)
    (tmp_path / "a.note").write_text("256 256 red")
    with opened(closed) as window:
        window.open_file(tmp_path / "a.note")
        assert window.document.sheet.scene.words == "red"
        assert window.document.draft.settings.steps == 2
    assert "*.note" in formats.openable()
    assert main(["run", str(tmp_path / "a.note"), "--out", str(tmp_path / "o")]) == 0
    assert read_picture(tmp_path / "o" / "take-0.png").pixels[..., 0].mean() > 150
