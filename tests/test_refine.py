"""Enlarging and refining: tiles that agree, told only what is in them; stopped and gone on; what was lost or appeared; the window."""

from __future__ import annotations

import json
from dataclasses import replace
from threading import Event

import numpy as np
import pytest
from by_hand import opened, run
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt

from waldrand.cli import main
from waldrand.core.noise.noise import field_noise
from waldrand.core.passes.kinds import kind_of
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request, with_own
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.tiles import tiles_over, with_tiles
from waldrand.core.passes.watch import Stopped, Watch
from waldrand.core.refused import Refused
from waldrand.core.seen.changes import changes
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.files.pictures import read_picture, read_recipe, write_png
from waldrand.files.tiles import TileFiles
from waldrand.packs.closed_form import ClosedFormPack

RED, GREEN, BLUE = (204, 38, 38), (38, 153, 51), (38, 64, 204)


def ground(*spots: tuple[tuple[int, int, int], int, int, int, int], width: int = 600, height: int = 400, words: str = "green") -> Sheet:
    pixels = np.zeros((height, width, 4), np.uint8)
    pixels[...] = (*GREEN, 255)
    for colour, x0, y0, x1, y1 in spots:
        pixels[y0:y1, x0:x1, :3] = colour
    return Sheet(width, height, (PictureLayer(1, "ground", pixels),), scene=SceneWords(words))


def asked(strength: float = 0.5, seed: int = 5, **more) -> Request:
    own = {"tile": 256, "tile_overlap": 64, **more}
    request = Request("refine", PassSettings(strength=strength, steps=4, guidance=1.0, seed=seed), more=tuple(own.items()))
    return replace(request, more=with_own(request.more, kind_of("refine").own))


class Counted(ClosedFormPack):
    """Counts what is painted, and stops after so many frames."""

    def __init__(self, stop_after: int = 1000) -> None:
        super().__init__()
        self.painted, self.stop, self._after = 0, Event(), stop_after

    def decode(self, latent, painted=None, drawing=None, light=False):
        if painted is not None:
            self.painted += 1
            if self.painted >= self._after:
                self.stop.set()
        return super().decode(latent, painted, drawing)


class Forgetful(ClosedFormPack):
    """Paints nothing but green."""

    def decode(self, latent, painted=None, drawing=None, light=False):
        out = super().decode(latent, painted, drawing)
        return out if painted is None else np.full_like(out, 1) * np.array(GREEN, np.float32) / 255


# --- tiles


@given(st.integers(16, 3000), st.integers(16, 900), st.sampled_from([128, 256, 512]), st.integers(0, 64))
@settings(max_examples=60)
def test_tiles_cover_everything_and_count_for_one_together(width, height, side, overlap):
    info = ClosedFormPack().info
    tiles = tiles_over(width, height, side, overlap, info)
    total = np.zeros((height, width))
    for tile in tiles:
        r = tile.rect
        assert r.x0 % info.cell == r.y0 % info.cell == 0
        assert r.width % info.limits.multiple == r.height % info.limits.multiple == 0
        here = r.intersect(Rect(0, 0, width, height))
        total[here.slices] += np.outer(tile.rows, tile.columns)[: here.height, : here.width]
    assert np.allclose(total, 1, atol=1e-5)
    assert [t.number for t in tiles] == list(range(1, len(tiles) + 1))


@given(st.integers(0, 90), st.integers(0, 90), st.integers(1, 40), st.integers(1, 40), st.integers(0, 2**31 - 1))
@settings(max_examples=40)
def test_every_part_of_a_field_of_noise_agrees_with_every_other(top, left, rows, columns, seed):
    whole = field_noise(seed, 0, 2, slice(0, 130), slice(0, 130))
    part = field_noise(seed, 0, 2, slice(top, top + rows), slice(left, left + columns))
    assert (part == whole[:, top : top + rows, left : left + columns]).all()
    assert not (field_noise(seed, 1, 2, slice(0, 8), slice(0, 8)) == whole[:, :8, :8]).any()


def test_no_edge_of_a_tile_shows(closed):
    sheet = ground()
    take = run_take(plan(sheet, asked(0.7), closed), closed, 5)
    one = run_take(plan(sheet, asked(0.7, tile=512, tile_overlap=0), closed), closed, 5)
    # The model sees each cell by itself, so tiles of any size have to give the same from the same field of noise.
    inner = np.s_[:384, :512]
    assert np.abs(take.pixels[inner].astype(int) - one.pixels[inner]).max() <= 1


def test_the_same_pass_gives_the_same_bytes_and_repeats_from_its_recipe(closed):
    sheet = ground((RED, 60, 60, 200, 200))
    take = run_take(plan(sheet, asked(), closed), closed, 5)
    assert (run_take(plan(sheet, asked(), closed), closed, 5).pixels == take.pixels).all()
    assert (run_take(plan(sheet, asked(), closed), closed, 6).pixels != take.pixels).any()
    done = sheet.with_layer(take.to_patch(2, "refined"))
    recipe = json.loads(json.dumps(picture_recipe(done)))
    assert (repeat(recipe, closed, [sheet.flatten()]).pixels == done.flatten()).all()


def test_what_is_held_stays_bit_for_bit(closed):
    held = Element(3, "kept", Outline("box", (100, 100, 380, 300)), hold=True)
    sheet = replace(ground((RED, 60, 60, 200, 200)), elements=(held,))
    take = run_take(plan(sheet, asked(0.8), closed), closed, 5)
    after, before = take.laid_on(sheet, "r").flatten(), sheet.flatten()
    assert (after[100:300, 100:380] == before[100:300, 100:380]).all()
    assert (after != before).any()


# --- what tiles are told


def told(sheet: Sheet, pack, request: Request | None = None) -> list[set[str]]:
    return [{one.phrase for one in stage.told} for stage in plan(sheet, request or asked(), pack).stages]


def test_each_tile_is_told_only_what_is_in_it(closed):
    sheet = ground((RED, 16, 16, 112, 112), (BLUE, 480, 280, 580, 380))
    words = told(replace(sheet, scene=SceneWords("red, blue, green")), closed)
    assert "red" in words[0]
    assert "blue" not in words[0]
    assert "blue" in words[-1]
    assert "red" not in words[-1]


def test_an_element_counts_only_where_its_thing_is_seen(closed):
    box = Element(1, "roof", Outline("box", (0, 0, 600, 400)), "red")
    sheet = replace(ground((RED, 16, 16, 112, 112)), elements=(box,))
    words = told(sheet, closed)
    assert "red" in words[0]
    assert all("red" not in w for w in words[2:])
    unknown = replace(sheet, elements=(replace(box, words="velvet"),))
    assert all("velvet" in w for w in told(unknown, closed))


def test_without_a_finder_the_scene_is_told_everywhere_and_that_is_said():
    pack = ClosedFormPack()
    pack.finder = None
    p = plan(ground(words="red"), asked(), pack)
    assert all({one.phrase for one in s.told} == {"red"} for s in p.stages)
    assert any("Without a finder" in w.text for w in p.warnings)


def test_the_pictures_own_lines_are_told_unless_they_are_not_wanted(closed):
    sheet = ground((RED, 60, 60, 200, 200))
    with_lines = plan(sheet, asked(), closed).stages[0]
    assert with_lines.drawn is not None
    drawn = with_lines.drawn(sheet, with_lines.frame)
    assert drawn.lines.max() > 200
    assert drawn.mask.min() == 255
    assert plan(sheet, asked(own_lines=False), closed).stages[0].drawn is None


def test_texture_tells_the_model_of_less_noise_than_there_is(closed):
    stage = plan(ground(), asked(texture=0.5), closed).stages[0]
    info = replace(closed.info, told=0.9)
    assert stage.told_level(info, 0.2, 0.5) < 0.2
    assert stage.told_level(info, 0.2, 0.0) == stage.told_level(info, 0.2, 1.0) == 0.2
    assert stage.told_level(info, 0.6, 0.5) == 0.6
    sheet = ground((RED, 60, 60, 200, 200))
    plain, more = (run_take(plan(sheet, asked(texture=x), closed), closed, 5) for x in (0.0, 1.0))
    assert (plain.pixels != more.pixels).any()


# --- tiles weaker, put back, stopped


def test_a_tile_is_painted_weaker_or_put_back_and_the_others_stay(closed, tmp_path):
    sheet, kept = ground((RED, 60, 60, 200, 200), width=900, height=256), TileFiles(tmp_path)
    pack = Counted()
    first = run_take(plan(sheet, asked(), pack), pack, 5, Watch(tiles=kept))
    before = pack.painted
    request = with_tiles(asked(), "weaker", [1])
    weaker = run_take(plan(sheet, request, pack), pack, 5, Watch(tiles=kept))
    assert pack.painted - before <= 2
    own, last = np.s_[:, :150], np.s_[:, 700:]
    drift = [np.abs(t.pixels[own].astype(int) - sheet.flatten()[own][..., :3]).mean() for t in (first, weaker)]
    assert drift[1] < drift[0]
    assert (weaker.pixels[last] == first.pixels[last]).all()
    back = run_take(plan(sheet, with_tiles(asked(), "put_back", [1]), pack), pack, 5, Watch(tiles=kept))
    assert (back.pixels[own] == sheet.flatten()[own][..., :3]).all()
    assert (back.pixels[last] == first.pixels[last]).all()


def test_stopped_it_keeps_what_is_done_and_goes_on_there(tmp_path):
    sheet, kept = ground((RED, 60, 60, 200, 200)), TileFiles(tmp_path)
    whole = run_take(plan(sheet, asked(), ClosedFormPack()), ClosedFormPack(), 5)
    pack = Counted(stop_after=3)
    part = run_take(plan(sheet, asked(), pack), pack, 5, Watch(stop=pack.stop, tiles=kept))
    assert "tiles are painted" in part.told
    assert 0 < (part.region > 0).mean() < 1
    again = repeat(picture_recipe(sheet.with_layer(part.to_patch(2, "part"))), ClosedFormPack(), [sheet.flatten()])
    assert (again.pixels == part.laid_on(sheet, "part").flatten()).all()
    before, pack.stop, pack._after = pack.painted, Event(), 1000
    rest = run_take(plan(sheet, asked(), pack), pack, 5, Watch(tiles=kept))
    n = len(plan(sheet, asked(), pack).stages)
    assert pack.painted - before < n
    assert (rest.pixels == whole.pixels).all()
    assert not rest.told


def test_stopped_before_the_first_tile_nothing_comes_of_it(closed):
    stop = Event()
    stop.set()
    with pytest.raises(Stopped):
        run_take(plan(ground(), asked(), closed), closed, 5, Watch(stop=stop))


def test_kept_tiles_are_few_and_damaged_ones_are_as_if_there_were_none(tmp_path):
    kept = TileFiles(tmp_path, most=40)
    tiles = {f"{i:064x}": np.full((2, 4, 3), i, np.uint8) for i in range(3)}
    for key, pixels in tiles.items():
        kept.put(key, pixels)
    assert len(list(tmp_path.iterdir())) == 1
    shape = (2, 4, 3)
    there = [key for key in tiles if kept.get(key, shape) is not None]
    assert len(there) == 1
    assert (kept.get(there[0], shape) == tiles[there[0]]).all()
    next(tmp_path.iterdir()).write_bytes(b"x")
    assert kept.get(there[0], shape) is None
    assert TileFiles(tmp_path / "nowhere").get(there[0], shape) is None


# --- what was lost or appeared


def test_what_was_lost_or_appeared_is_told_by_place(closed):
    before = ground((RED, 16, 16, 160, 160), width=512, height=256).flatten()
    after = ground((BLUE, 300, 60, 460, 200), width=512, height=256).flatten()
    places = [(1, Rect(0, 0, 256, 256)), (2, Rect(256, 0, 512, 256))]
    assert [(c.number, c.lost, c.new) for c in changes(before, after, places, closed)] == [(1, ("red",), ()), (2, (), ("blue",))]
    assert changes(before, before, places, closed) == []


# --- what cannot be


@pytest.mark.parametrize(
    ("more", "why"),
    [
        ({"tile": 64}, "Tiles go from 128 to 512"),
        ({"tile": 2048}, "Tiles go from 128 to 512"),
        ({"tile_overlap": 200}, "may overlap by 128"),
        ({"weaker": (99,)}, "no tile 99"),
        ({"put_back": (0,)}, "no tile 0"),
        ({"put_back": tuple(range(1, 7))}, "nothing to paint"),
    ],
)
def test_what_cannot_be_is_said(closed, more, why):
    with pytest.raises(Refused, match=why):
        plan(ground(), asked(**more), closed)


def test_an_empty_sheet_and_one_that_is_all_held_have_nothing_to_refine(closed, placed):
    with pytest.raises(Refused, match="no picture"):
        plan(placed, asked(), closed)
    held = replace(ground(), elements=(Element(3, "all", Outline("box", (0, 0, 600, 400)), hold=True),))
    with pytest.raises(Refused, match="held"):
        run_take(plan(held, asked(), closed), closed, 5)


# --- by command


def test_the_command_enlarges_refines_and_tells_what_it_did(tmp_path, capsys, picture_file):
    out = tmp_path / "large.png"
    tiles = ["--tile", "256", "--overlap", "32", "--steps", "3", "--strength", "0.2"]
    assert main(["refine", str(picture_file), "--by", "1.5", *tiles, "--scene", "meadow", "--with-input", "--json", "--out", str(out)]) == 0
    told_ = json.loads(capsys.readouterr().out)
    assert told_["size"] == [384, 384]
    assert told_["tiles"] == 4
    assert told_["finished"]
    assert read_picture(out).pixels.shape[:2] == (384, 384)
    assert main(["repeat", str(out)]) == 0
    recipe = read_recipe(out)
    assert recipe is not None
    assert recipe["passes"][0]["recipe"]["kind"] == "refine"


@pytest.mark.parametrize(
    ("options", "why"),
    [
        (["--by", "400"], "--by goes from"),
        (["--size", "99999x99999"], "too many"),
        (["--size", "big"], "like 768x512"),
        (["--tile", "100"], "Tiles go from"),
        (["--put-back", "x"], "no numbers"),
        (["--detail", "3"], "Texture goes"),
    ],
)
def test_bad_input_is_refused_in_a_sentence(options, why, tmp_path, capsys, picture_file):
    out = tmp_path / "out.png"
    assert main(["refine", str(picture_file), *options, "--out", str(out)]) == 2
    assert why in capsys.readouterr().err
    assert not out.exists()


def test_the_command_mends_tiles_or_puts_them_back(tmp_path, capsys, monkeypatch, picture_file):
    import waldrand.commands.refine as command

    pack = Forgetful()
    monkeypatch.setattr(command, "pack_of", lambda options: pack)
    path = tmp_path / "red.png"
    write_png(path, ground((RED, 16, 16, 160, 160)).flatten())
    tiles = ["--tile", "256", "--overlap", "32", "--strength", "1", "--json"]
    assert main(["refine", str(path), *tiles, "--out", str(tmp_path / "a.png")]) == 0
    assert main(["refine", str(path), *tiles, "--mend", "--out", str(tmp_path / "b.png")]) == 0
    plain, mended = (json.loads(line)["changes"] for line in capsys.readouterr().out.splitlines())
    assert len(plain) > len(mended) == 0


# --- in the window


@pytest.fixture
def desk(app, closed):
    with opened(closed) as w:
        w.document.open(ground((RED, 16, 16, 160, 160), width=512, height=256), w.opening.blank_draft())
        yield w


def turn(w, **values) -> None:
    draft = replace(w.document.draft, kind="refine", takes=1)
    for name, value in {"tile": 256, "tile_overlap": 32, "own_lines": False, **values}.items():
        draft = draft.with_value(name, value)
    w.document.set_draft(draft, "refine")
    w.refresh_forecast()
    w.painting.looking.finish()
    w.refresh_forecast()


def test_enlarging_turns_to_the_pass_that_refines_in_one_edit(desk):
    desk.dialogs.new_frame = (Rect(0, 0, 768, 384), "crisp")
    desk.bench.refining.enlarge()
    assert (desk.document.sheet.width, desk.document.draft.kind) == (768, "refine")
    desk.document.undo.undo()
    assert (desk.document.sheet.width, desk.document.draft.kind) == (512, "compose")


@pytest.fixture
def forgetful(app):
    with opened(Forgetful()) as w:
        w.document.open(ground((RED, 16, 16, 160, 160), width=512, height=256), w.opening.blank_draft())
        yield w


def test_tiles_that_lost_something_are_listed_and_put_back(forgetful, wait):
    desk = forgetful
    sheet = desk.document.sheet
    turn(desk, strength=1.0)
    run(desk, wait)
    listed = desk.passes.tile_changes
    wait(lambda: listed.list.count() > 0)
    assert "lost red" in listed.list.item(0).text()
    listed.list.item(0).setCheckState(Qt.CheckState.Checked)
    for i in range(1, listed.list.count()):
        listed.list.item(i).setCheckState(Qt.CheckState.Unchecked)
    number = listed.list.item(0).data(Qt.ItemDataRole.UserRole)
    listed.put_back.click()
    wait(lambda: not desk.runner.running and len(desk.tray.takes) == 2)
    made = desk.tray.takes[-1].take
    assert dict(desk.tray.takes[-1].plan.request.more)["put_back"] == (number,)
    assert (made.pixels[16:160, 16:120] == sheet.flatten()[16:160, 16:120, :3]).all()


def test_numbers_of_tiles_are_typed_and_undone(desk):
    turn(desk)
    field = desk.passes._rows["weaker"].field
    field.setText("2, 1")
    field.editingFinished.emit()
    assert desk.document.draft.value("weaker") == (2, 1)
    desk.document.undo.undo()
    assert desk.document.draft.value("weaker") == ()
    assert field.text() == ""


def test_a_stopped_pass_leaves_its_tiles_and_says_so(desk, wait, monkeypatch):
    turn(desk, strength=0.5)
    put = TileFiles.put

    def put_and_stop(files, key, pixels):
        put(files, key, pixels)
        desk.runner.stop()

    # In the pass's own thread, with its first tile: told by the window, it might be done before.
    monkeypatch.setattr(TileFiles, "put", put_and_stop)
    run(desk, wait)
    assert len(desk.tray.takes) == 1
    assert "1 of 3 tiles are painted" in desk.passes.status.text()
