"""What the finder tells: masks by words, descriptions, placement scores."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from by_hand import LEFT, at, key
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.seen.describe import as_elements, describe
from waldrand.core.seen.find import covered, find, thing_at
from waldrand.core.seen.score import placement
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import PictureLayer
from waldrand.core.values.masks import Mask
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import COLOURS, ClosedFormPack


def picture(*patches: tuple[str, tuple[int, int, int, int]]) -> np.ndarray:
    """White, with coloured boxes (x0, y0, x1, y1)."""
    out = np.full((256, 256, 4), 255, np.uint8)
    out[..., :3] = np.array(COLOURS["white"]) * 255
    for colour, (x0, y0, x1, y1) in patches:
        out[y0:y1, x0:x1, :3] = np.array(COLOURS[colour]) * 255
    return out


def element(key: int, words: str, *box: float) -> Element:
    return Element(key, words, Outline("box", box), words)  # type: ignore[arg-type]


def scored(pixels: np.ndarray, *elements: Element) -> list[tuple[float, bool]]:
    return [(round(s.score), s.found) for s in placement(pixels, Sheet(256, 256, elements=elements), ClosedFormPack())]


def test_a_thing_is_found_where_it_is():
    found = find(picture(("red", (64, 96, 160, 192))), "red", ClosedFormPack())
    assert found.box == (64, 96, 160, 192)
    assert found.confidence > 0.9
    assert found.mask[140, 100] == 255
    assert found.mask[20, 20] == 0
    assert find(picture(), "red", ClosedFormPack()).box is None
    with pytest.raises(ValueError, match="does not know"):
        find(picture(), "owl", ClosedFormPack())


def test_a_picture_and_its_mirror_image_show_the_same(own):
    finder = own.finder
    seen = picture(("red", (20, 96, 90, 192)), ("green", (60, 140, 200, 180)))[..., :3].astype(np.float32) / 255
    (maps, whole), (mirrored, of_mirror) = finder.look(seen), finder.look(np.ascontiguousarray(seen[:, ::-1]))
    other = {"facing left": "facing right", "facing right": "facing left"}
    turned = [finder.labels.index(other.get(label, label)) for label in finder.labels]
    assert mirrored[turned, :, ::-1] == pytest.approx(maps, abs=1e-4)
    assert of_mirror == pytest.approx(whole, abs=1e-4)


def test_a_picture_is_described():
    d = describe(picture(("blue", (0, 0, 128, 128)), ("red", (160, 160, 192, 192))), ClosedFormPack())
    assert "white" in d.scene
    assert [w for w, _, _ in d.things] == ["blue", "red"]
    assert d.things[1][2] == (160, 160, 192, 192)


def test_scores_say_how_much_landed():
    pixels = picture(("red", (64, 64, 128, 128)))
    assert scored(pixels, element(1, "red", 48, 48, 140, 140)) == [(100, True)]
    assert scored(pixels, element(1, "red", 96, 48, 200, 140)) == [(50, True)]
    assert scored(pixels, element(1, "blue", 48, 48, 140, 140)) == [(0, False)]
    missed = placement(pixels, Sheet(256, 256, elements=(element(1, "red", 150, 150, 250, 250),)), ClosedFormPack())
    assert not missed[0].landed
    assert "outside" in missed[0].says


def test_what_is_too_small_to_be_told_from_afar_is_looked_at_from_nearer():
    pixels = np.kron(picture(("red", (96, 96, 102, 102))), np.ones((4, 4, 1), np.uint8))
    assert find(pixels, "red", ClosedFormPack()).box is None
    sheet = Sheet(1024, 1024, elements=(element(1, "red", 376, 376, 416, 416), element(2, "red", 700, 700, 740, 740)))
    here, elsewhere = placement(pixels, sheet, ClosedFormPack())
    assert here.landed
    assert not elsewhere.found


def test_what_strayed_out_of_the_nearer_look_is_still_said_to_lie_outside():
    pixels = np.kron(picture(("red", (16, 16, 64, 64))), np.ones((4, 4, 1), np.uint8))
    (score,) = placement(pixels, Sheet(1024, 1024, elements=(element(1, "red", 700, 700, 760, 760),)), ClosedFormPack())
    assert score.found
    assert not score.landed
    assert "outside" in score.says


class LitOrNot:
    """The closed-form finder, which also knows what it is to be lit, and sees nothing of it."""

    def __init__(self, finder):
        self.finder, self.labels, self.traits = finder, (*finder.labels, "lit"), frozenset({"lit"})
        self.whole, self.colours, self.grounds = finder.whole, finder.colours, finder.grounds

    def labels_of(self, phrase):
        found = self.finder.labels_of(phrase.removeprefix("lit "))
        return (*found, len(self.finder.labels)) if phrase.startswith("lit ") else found

    def look(self, picture):
        maps, whole = self.finder.look(picture)
        return np.concatenate([maps, np.zeros_like(maps[:1])]), whole


def test_a_thing_that_is_there_but_not_as_it_was_said_to_be_is_told_from_one_that_is_not_there():
    pack, pixels = ClosedFormPack(), picture(("red", (64, 64, 128, 128)))
    pack.finder = LitOrNot(pack.finder)
    elements = (element(1, "lit red", 48, 48, 140, 140), element(2, "lit blue", 150, 150, 250, 250), element(3, "red", 48, 48, 140, 140))
    unlit, nowhere, plain = placement(pixels, Sheet(256, 256, elements=elements), pack)
    assert not unlit.landed
    assert "is there, but not told to be lit" in unlit.says
    assert "was not found" in nowhere.says
    assert plain.found


def test_a_picture_of_another_size_than_the_sheet_is_refused():
    with pytest.raises(ValueError, match="256 x 256 pixels, the sheet 512 x 256"):
        placement(picture(), Sheet(512, 256), ClosedFormPack())


def test_of_two_of_a_kind_each_counts_for_its_own_element():
    pixels = picture(("red", (16, 64, 64, 128)), ("red", (160, 64, 208, 128)))
    two = (element(1, "red", 8, 56, 80, 140), element(2, "red", 150, 56, 220, 140))
    assert scored(pixels, *two) == [(100, True), (100, True)]
    assert scored(pixels, two[0]) == [(50, True)]


def test_words_the_finder_does_not_know_and_held_or_unused_elements_are_not_judged():
    pixels = picture(("red", (16, 64, 64, 128)))
    e = element(1, "red", 8, 56, 80, 140)
    assert scored(pixels, replace(e, words="castle")) == []
    assert scored(pixels, replace(e, hold=True)) == []
    assert scored(pixels, replace(e, visible=False)) == []


@given(st.sampled_from((64, 128)), st.data())
def test_a_score_is_the_share_inside(side, data):
    x, y, dx, dy = (16 * data.draw(st.integers(0, (256 - side) // 16)) for _ in range(4))
    pixels = picture(("blue", (x, y, x + side, y + side)))
    wide, high = max(0, side - abs(x - dx)), max(0, side - abs(y - dy))
    ((share, found),) = scored(pixels, element(1, "blue", dx, dy, dx + side, dy + side))
    assert found
    # Looked at from nearer, edges need not lie on those of cells; the worst of all places is off by 12.75.
    assert abs(share - 100 * wide * high / side**2) <= (13 if side == 64 else 0.5)


def test_things_that_stand_apart_are_told_apart_and_crumbs_left_out():
    pixels = picture(("red", (16, 64, 80, 128)), ("red", (160, 64, 208, 128)), ("red", (240, 240, 256, 256)), ("blue", (96, 160, 176, 240)))
    d = describe(pixels, ClosedFormPack())
    assert [(w, b) for w, _, b in d.things] == [
        ("blue", (96, 160, 176, 240)),
        ("red", (16, 64, 80, 128)),
        ("red", (160, 64, 208, 128)),
    ]
    elements = as_elements(d, 2, 7)
    assert [(e.key, e.words, e.outline.box) for e in elements] == [(7, "red", (16, 64, 80, 128)), (8, "blue", (96, 160, 176, 240))]
    assert [e.name for e in as_elements(d, 3)] == ["red", "red 2", "blue"]
    assert as_elements(describe(picture(), ClosedFormPack()), 8) == ()


def test_what_is_seen_becomes_elements(window):
    pixels = picture(("red", (64, 32, 160, 96)), ("blue", (32, 144, 96, 224)))
    window.document.open(Sheet(256, 256, (PictureLayer(1, "p", pixels),)))
    key(window, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    sheet = window.document.sheet
    assert [(e.words, e.outline.box) for e in sheet.elements] == [("red", (64, 32, 160, 96)), ("blue", (32, 144, 96, 224))]
    assert sheet.scene.words == "bright, white"
    assert "Seen: red, blue" in window.passes.status.text()
    assert len({layer.key for layer in sheet.layers} | {e.key for e in sheet.elements}) == 3
    window.document.undo.undo()
    assert not window.document.sheet.elements
    window.document.open(Sheet(256, 256, (PictureLayer(1, "p", picture()),)))
    window.seeing.elements_seen()
    assert "No thing" in window.passes.status.text()
    assert not window.document.modified


def test_a_pack_without_a_finder_says_so():
    pack = ClosedFormPack()
    pack.finder = None
    with pytest.raises(ValueError, match="has no finder"):
        find(picture(), "red", pack)


def test_takes_in_the_tray_are_scored_and_sorted(with_take, wait):
    tray = with_take.tray
    assert all(len(t.scores) == 2 for t in tray.takes)
    assert "placed" in tray.list.item(0).text()
    assert tray.takes[0].settings.endswith("steered, second order")
    worse = tray.takes[0]
    worse.scores = tuple(replace(s, score=0.0, found=False, says="it failed") for s in worse.scores)
    tray.sort_by_placement()
    assert tray.takes[-1] is worse
    tray.show_entry(worse)
    assert "it failed" in with_take.passes.status.text()


def test_the_thing_at_a_point_is_found_without_others_of_its_kind():
    pixels = picture(("red", (16, 64, 64, 128)), ("red", (160, 64, 208, 128)), ("blue", (64, 160, 128, 224)))
    pack = ClosedFormPack()
    found = thing_at(pixels, 180, 100, pack)
    assert found is not None
    assert (found.phrase, found.box) == ("red", (160, 64, 208, 128))
    assert found.mask[100, 180] == 255
    assert found.mask[100, 40] == 0
    assert thing_at(pixels, 20, 20, pack) is None
    with pytest.raises(ValueError, match="no picture there"):
        thing_at(pixels, 256, 20, pack)


def test_alt_and_a_click_masks_the_thing_there(window):
    pixels = picture(("red", (16, 64, 64, 128)), ("blue", (128, 160, 192, 224)))
    window.document.open(Sheet(256, 256, (PictureLayer(1, "p", pixels),)))
    window.view.fit()
    key(window, Qt.Key.Key_M)
    alt = Qt.KeyboardModifier.AltModifier
    for x, y in ((40, 100), (160, 190)):
        QTest.mouseClick(window.view.viewport(), LEFT, alt, at(window, x, y))
    mask = window.document.sheet.mask.read()
    assert mask[100, 40] == mask[190, 160] == 255
    assert mask[30, 200] == 0
    before = window.document.sheet.mask
    QTest.mouseClick(window.view.viewport(), LEFT, alt, at(window, 220, 30))
    assert window.document.sheet.mask is before
    assert "paint the mask by hand" in window.passes.status.text()
    window.document.undo.undo()
    assert window.document.sheet.mask.read()[190, 160] == 0


def test_a_mask_and_words_are_read_off_the_picture(window):
    window.document.open(Sheet(256, 256, (PictureLayer(1, "p", picture(("red", (64, 64, 160, 160)))),)))
    window.dialogs.said = ["red"]
    window.seeing.mask_by_words()
    box = window.document.sheet.mask.box()
    assert abs(box.x0 - 64) <= 16
    assert abs(box.x1 - 160) <= 16
    window.seeing.read_off_words()
    assert window.document.sheet.scene.words == "bright, white, red"
    window.dialogs.said = ["black"]
    window.seeing.mask_by_words()
    assert "not found" in window.passes.status.text()


def test_the_own_pack_finds_what_it_paints(own):
    sheet = Sheet(
        512,
        512,
        elements=(element(1, "red tent", 20, 230, 236, 460), element(2, "white cottage", 276, 230, 492, 460)),
        scene=SceneWords("clear day, meadow"),
    )
    pixels = run_take(plan(sheet, Request("compose", PassSettings(steps=12)), own), own, 0).pixels
    assert [s.landed for s in placement(pixels, sheet, own)] == [True, True]
    swapped = replace(sheet, elements=(replace(sheet.elements[0], words="cottage"), replace(sheet.elements[1], words="tent")))
    assert not any(s.landed for s in placement(pixels, swapped, own))
    seen = describe(pixels, own)
    assert {"clear day", "meadow"} <= set(seen.scene)
    assert {"tent", "cottage"} <= {word for words, _, _ in seen.things for word in words.split()}
    tent = thing_at(pixels, 128, 400, own)
    assert tent.phrase == "tent"
    assert tent.mask[400, 128] == 255
    assert tent.mask[400, 384] == 0
    assert find(pixels, "lighthouse", own).box is None


def test_an_inpaint_without_words_offers_the_scenes_read_off_the_picture(round_mask):
    pack = ClosedFormPack()
    pixels = np.full((256, 256, 4), (242, 242, 242, 255), np.uint8)
    pixels[150:200, 150:200, :3] = (204, 38, 38)
    sheet = Sheet(256, 256, (PictureLayer(1, "p", pixels),), mask=round_mask)
    request = Request("inpaint")

    def caution(of):
        return next((c for c in plan(of, request, pack).warnings if c.text.startswith("No words at all")), None)

    mend = caution(sheet).mend
    mended, same = mend.apply(sheet, request)
    # The ground and what the whole is like, but not the thing: it would sprout again in the hole.
    assert set(mended.scene.words.split(", ")) == {"bright", "white"}
    assert same == request
    assert caution(mended) is None
    pack.finder = None
    assert caution(sheet).mend is None


def test_an_inpaint_without_words_leads_away_from_what_its_mask_covers():
    pack, request = ClosedFormPack(), Request("inpaint", PassSettings(steps=4, strength=1.0))
    pixels = picture(("red", (96, 96, 160, 160)), ("blue", (0, 0, 256, 64)))
    mask = np.zeros((256, 256), np.uint8)
    # All of the red thing, and some of what is blue.
    mask[32:176, 80:176] = 255
    sheet = Sheet(256, 256, (PictureLayer(1, "ground", pixels),), scene=SceneWords("white"), mask=Mask.from_array(mask))
    assert covered(pixels, mask / 255, pack) == ("red",)
    p = plan(sheet, request, pack)
    assert p.request.avoid == "red"
    assert "Leads away from what stands there: red." in p.sentences
    weak = replace(request, settings=replace(request.settings, strength=0.5))
    for other in (replace(request, words="blue"), replace(request, avoid="blue"), replace(request, clears=False), weak):
        assert plan(sheet, other, pack).request.avoid == other.avoid
    done = run_take(p, pack, 0).laid_on(sheet, "gone")
    recipe = json.loads(json.dumps(picture_recipe(done)))
    assert np.array_equal(repeat(recipe, pack, [pixels]).pixels, done.flatten())
    # A recipe from before asked for no such thing.
    before = run_take(plan(sheet, replace(request, clears=False), pack), pack, 0).laid_on(sheet, "as it was")
    recipe = json.loads(json.dumps(picture_recipe(before)))
    del recipe["passes"][0]["recipe"]["clears"]
    assert np.array_equal(repeat(recipe, pack, [pixels]).pixels, before.flatten())
    assert not np.array_equal(before.flatten(), done.flatten())
