"""What a look is made of: the grain of paper, the same under the whole sheet and nowhere twice; ink along what is drawn; evenness."""

from __future__ import annotations

import shutil
from dataclasses import replace

import numpy as np
import pytest
from by_hand import opened, run
from hypothesis import given
from hypothesis import strategies as st

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import settings_from_json
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.frame import Rect
from waldrand.core.values.grain import Grain
from waldrand.core.values.layers import LINES, PictureLayer
from waldrand.core.values.look_even import Even
from waldrand.core.values.look_ink import LookInk
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack
from waldrand.packs.manifest import read_manifest
from waldrand.packs.onnx_pack import own_pack_folder

GRAIN = Grain("yellow", 0.03, 0.03, 5.0)
WHOLE = Rect(0, 0, 256, 256)


@pytest.fixture
def rough() -> ClosedFormPack:
    """A model whose yellow is painted on rough paper."""
    pack = ClosedFormPack()
    pack.info = replace(pack.info, grains=(GRAIN,))
    return pack


def made(sheet, pack, request=None, **settings):
    """A take's pixels, with and without the paper."""
    request = request or Request("compose", PassSettings(steps=6, **settings))
    bare = replace(request, settings=replace(request.settings, paper=False))
    return [run_take(plan(sheet, one, pack), pack, 0) for one in (request, bare)]


def paper_in(with_it, bare, rect):
    """How much of the paper there is in a rectangle of what was made, 1: all of it."""
    paper = GRAIN.on(rect, rect.height, rect.width)
    light = bare.mean(-1).astype(np.float32)
    change = with_it.mean(-1) - light
    return float((change * light * paper).sum() / ((light * paper) ** 2).sum())


@given(st.integers(-300, 300), st.integers(-300, 300), st.integers(1, 60), st.integers(1, 60))
def test_every_part_of_the_sheet_lies_on_the_same_paper(x, y, w, h):
    whole = Rect(-300, -300, 400, 400)
    part = GRAIN.on(Rect(x, y, x + w, y + h), h, w)
    assert np.allclose(GRAIN.on(whole, 700, 700)[y + 300 : y + 300 + h, x + 300 : x + 300 + w], part, atol=1e-5)


def test_paper_neither_lightens_nor_darkens_the_whole():
    paper = GRAIN.on(Rect(0, 0, 2000, 2000), 2000, 2000)
    assert abs(float(paper.mean())) < 0.002
    assert 0.02 < float(paper.std()) < 0.045


@given(st.floats(0, 1), st.integers(0, 5))
def test_what_lies_on_the_paper_already_gets_only_what_is_missing(amount, seed):
    colours = np.random.default_rng(seed).uniform(0.2, 0.8, (4, 4, 3)).astype(np.float32)
    picture = np.kron(colours, np.ones((64, 64, 1), np.float32))
    some = GRAIN.laid(picture, WHOLE, np.full((256, 256), amount, np.float32))
    all_of_it = GRAIN.laid(some, WHOLE, np.ones((256, 256), np.float32))
    once = GRAIN.laid(picture, WHOLE, np.ones((256, 256), np.float32))
    assert float(np.abs(all_of_it - once).mean()) < 0.2 * float(np.abs(once - picture).mean())


def test_nothing_changes_where_none_is_laid():
    picture = np.random.default_rng(1).random((256, 256, 3)).astype(np.float32)
    amount = np.zeros((256, 256), np.float32)
    amount[:, 128:] = 1
    laid = GRAIN.laid(picture, WHOLE, amount)
    assert (laid[:, :128] == picture[:, :128]).all()
    assert (laid[:, 128:] != picture[:, 128:]).any()


def test_a_look_with_paper_is_painted_on_it(rough):
    laid, bare = made(Sheet(256, 256, scene=SceneWords("yellow")), rough)
    assert paper_in(laid.pixels, bare.pixels, WHOLE) == pytest.approx(1, abs=0.2)


def test_other_looks_are_not(rough):
    laid, bare = made(Sheet(256, 256, scene=SceneWords("green")), rough)
    assert (laid.pixels == bare.pixels).all()


def test_a_pack_without_papers_paints_as_ever(closed):
    laid, bare = made(Sheet(256, 256, scene=SceneWords("yellow")), closed)
    assert (laid.pixels == bare.pixels).all()


def test_an_elements_look_stays_inside_it(rough):
    one = Element(1, "sun", Outline("box", (0, 0, 128, 256)), "yellow")
    laid, bare = made(Sheet(256, 256, elements=(one,), scene=SceneWords("green")), rough)
    changed = (laid.pixels != bare.pixels).any(-1)
    assert changed[:, :100].mean() > 0.5
    assert not changed[:, 160:].any()


def test_an_inpaint_goes_on_on_the_same_paper(rough, painted, round_mask):
    sheet = replace(painted, mask=round_mask)
    laid, bare = made(sheet, rough, Request("inpaint", PassSettings(steps=6), "yellow"))
    inside = round_mask.read() == 255
    paper = GRAIN.on(WHOLE, 256, 256)
    with_it, without = (sheet.with_layer(take.to_patch(9, "sun")).flatten()[..., :3].mean(-1) for take in (laid, bare))
    assert np.corrcoef((with_it - without)[inside], (without * paper)[inside])[0, 1] > 0.9
    outside = round_mask.read() == 0
    assert (with_it[outside] == without[outside]).all()


def test_a_light_rework_lays_little(rough, painted):
    sheet = replace(painted, scene=SceneWords("yellow"))

    def laid_at(strength):
        laid, bare = made(sheet, rough, Request("rework", PassSettings(steps=6, strength=strength)))
        return np.abs(laid.pixels.astype(float) - bare.pixels).mean()

    assert laid_at(0.1) < 0.5 * laid_at(0.8)


def test_recipes_say_whether_there_was_paper_and_older_ones_had_none(rough):
    settings = made(Sheet(256, 256, scene=SceneWords("yellow")), rough)[0].recipe["settings"]
    assert settings["paper"] is True
    assert settings_from_json(settings).paper
    assert not settings_from_json({k: v for k, v in settings.items() if k != "paper"}).paper


def test_our_own_model_says_which_look_has_paper(own):
    (grain,) = own.info.grains
    assert own.read(grain.look)[0]
    laid, bare = made(Sheet(512, 512, scene=SceneWords("gouache, meadow")), own, Request("compose", PassSettings(quick=True)))
    assert (laid.pixels != bare.pixels).mean() > 0.5


def test_paper_can_be_left_out_in_the_window(app, rough, wait):
    with opened(rough) as w:
        w.document.open(Sheet(256, 256, scene=SceneWords("yellow")), w.opening.blank_draft())
        w.passes.paper.click()
        run(w, wait)
        assert w.document.draft.settings.paper is False
        without = w.tray.takes[-1].take.pixels
        w.passes.paper.click()
        run(w, wait)
        assert (w.tray.takes[-1].take.pixels != without).any()


def test_a_model_without_papers_does_not_ask_for_one(window):
    assert not window.passes.paper.isVisible()


# --- ink


@pytest.fixture
def inky() -> ClosedFormPack:
    """A model whose yellow is drawn in ink."""
    pack = ClosedFormPack()
    pack.info = replace(pack.info, inks=(LookInk("yellow", 0.75, (40, 30, 50)),))
    return pack


def drawing(sheet: Sheet) -> Sheet:
    """A sheet with a thick line from side to side, told as a drawing."""
    pixels = np.zeros((256, 256, 4), np.uint8)
    pixels[120:128, :, 3] = 255
    return sheet.with_layer(PictureLayer(sheet.next_key(), "line", pixels, role=LINES))


def test_a_look_that_is_drawn_in_ink_is_inked_along_what_is_drawn_and_nowhere_else(inky, closed):
    sheet = drawing(Sheet(256, 256, scene=SceneWords("yellow")))
    inked, bare = made(sheet, inky)
    change = np.abs(inked.pixels.astype(int) - bare.pixels).max(-1)
    assert (change[122:126] > 20).all()
    assert not change[:110].any()
    assert not change[140:].any()
    expected = bare.pixels[123].astype(float) * 0.25 + 0.75 * np.array([40, 30, 50])
    assert np.abs(inked.pixels[123] - expected).max() < 4
    for other, pack in ((drawing(Sheet(256, 256, scene=SceneWords("green"))), inky), (sheet, closed)):
        inked, bare = made(other, pack)
        assert (inked.pixels == bare.pixels).all()


def test_a_rework_that_keeps_to_its_own_lines_does_not_draw_them_twice(inky, painted):
    sheet = replace(painted, scene=SceneWords("yellow"))
    inked, bare = made(sheet, inky, Request("rework", PassSettings(steps=6, strength=0.5)))
    assert (inked.pixels == bare.pixels).all()


@given(st.floats(0, 1), st.floats(0, 1), st.integers(0, 9))
def test_ink_only_ever_comes_nearer_to_its_colour(cover, amount, seed):
    rng = np.random.default_rng(seed)
    picture, lines = rng.random((12, 9, 3), np.float32), rng.random((12, 9), np.float32)
    ink = LookInk("any", cover, (10, 200, 90))
    colour = np.array([10, 200, 90]) / 255
    done = ink.over(picture, lines, np.full((12, 9), amount, np.float32))
    assert (np.abs(done - colour) <= np.abs(picture - colour) + 1e-5).all()
    assert (ink.over(picture, 0 * lines, np.ones((12, 9), np.float32)) == picture).all()


def test_our_own_ink_wash_is_drawn_in_ink(own):
    (ink,) = own.info.inks
    assert ink.look == "ink wash"
    sheet = Sheet(384, 384, elements=(Element(1, "a", Outline("box", (80, 120, 300, 340)), "white cottage"),))
    told = [replace(sheet, scene=SceneWords(f"clear day, meadow{look}")) for look in (", ink", "")]
    (inked, bare), (plain, same) = (made(one, own, Request("compose", PassSettings(quick=True))) for one in told)
    assert (inked.pixels < bare.pixels - 30.0).any(-1).mean() > 0.01
    assert (plain.pixels == same.pixels).all()


def refuses(folder, part: str, stated: str, following: str) -> None:
    """The pack that ships, in which a part of its description states something else, is refused."""
    text = (own_pack_folder() / "pack.toml").read_text("utf-8")
    shutil.copytree(own_pack_folder(), folder)
    (folder / "pack.toml").write_text(f"{text[: text.index(part)]}{part}\n{stated}\n\n{text[text.index(following) :]}", "utf-8")
    with pytest.raises(Refused, match="pack"):
        read_manifest(folder)


@pytest.mark.parametrize(
    "stated",
    ["amount = 2\ncolour = [1, 2, 3]", "amount = 0.5\ncolour = [1, 2]", "amount = 0.5\ncolour = [1, 2, 999]", "colour = [1, 2, 3]"],
)
def test_an_ink_that_cannot_be_is_refused(tmp_path, stated):
    refuses(tmp_path / "pack", '[inked."ink wash"]', stated, "[files]")


# --- evenness


def uneven(seed: int, faint: float) -> tuple[np.ndarray, np.ndarray]:
    """Two even halves with an edge between them, and the same faintly uneven, (64, 80, 3) float32."""
    clean = np.full((64, 80, 3), 0.35, np.float32)
    clean[:, 40:] = (0.6, 0.5, 0.7)
    return clean, clean + np.random.default_rng(seed).normal(0, faint, clean.shape).astype(np.float32)


@given(st.integers(0, 99), st.floats(0.002, 0.01), st.integers(1, 4))
def test_what_is_faintly_uneven_gets_even_and_edges_stay(seed, faint, reach):
    clean, picture = uneven(seed, faint)
    done = Even("any", reach, 0.01).evened(picture, Rect(0, 0, 80, 64), np.ones((64, 80), np.float32))
    assert done.dtype == np.float32
    inner = np.s_[6:-6, 6:32]
    assert (done - clean)[inner].std() < 0.75 * (picture - clean)[inner].std()
    assert np.abs(done.mean((0, 1)) - picture.mean((0, 1))).max() < 0.002
    # The edge is as steep as it was.
    assert (done[:, 40] - done[:, 39]).mean() > 0.93 * (clean[:, 40] - clean[:, 39]).mean()


@given(st.integers(0, 99), st.integers(0, 9))
def test_nothing_is_evened_where_nothing_is_to_be(seed, part):
    _, picture = uneven(seed, 0.05)
    amount = np.zeros((64, 80), np.float32)
    amount[:, 8 * part :] = 1
    done = Even("any", 2, 0.01).evened(picture, Rect(0, 0, 80, 64), amount)
    assert (done[:, : 8 * part] == picture[:, : 8 * part]).all()


def test_our_own_flat_shapes_are_even(own):
    (even,) = own.info.evens
    assert even.look == "flat shapes"
    sheet = Sheet(320, 320, elements=(Element(1, "a", Outline("box", (80, 120, 240, 300)), "white cottage"),))
    for look, changes in ((", flat shapes", True), ("", False)):
        evened, bare = made(replace(sheet, scene=SceneWords(f"clear day, meadow{look}")), own, Request("compose", PassSettings(quick=True)))
        assert (evened.pixels != bare.pixels).any() == changes
        steps = [np.abs(np.diff(t.pixels.astype(int), axis=0)) for t in (evened, bare)]
        assert not changes or (steps[0] <= 1).mean() > (steps[1] <= 1).mean()


@pytest.mark.parametrize("stated", ["reach = 0\nfaint = 0.01", "reach = 3\nfaint = 2", "faint = 0.01"])
def test_an_evenness_that_cannot_be_is_refused(tmp_path, stated):
    refuses(tmp_path / "pack", '[even."flat shapes"]', stated, "[grounds]")
