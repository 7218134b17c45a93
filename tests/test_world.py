"""The made-up world: every thing is drawn, stands where it should, and repeats."""

from __future__ import annotations

import json

import numpy as np
import pytest

pytest.importorskip("skia")
pytestmark = pytest.mark.training

from training.config import HERE, load_config
from training.figures import SIDE, draw_kind, write_figures
from training.places import seen_in, write_places
from training.world.canvas import Canvas, Stand, draw_shadow, draw_standing
from training.world.dress import dressed
from training.world.finish import FINISH, GRAIN, finished
from training.world.scene import paint_scene
from training.world.sky import OFTEN, SKY
from training.world.things import GROUPS, PORTRAIT_TRAITS, THINGS, Light, Look
from training.world.words import COLOURS, SKIES, vocabulary
from waldrand.packs.figure_sheet import read_figures
from waldrand.packs.place_list import read_places

DAY, NIGHT = Light((1.0, 1.0, 1.0), 0.0), Light((0.58, 0.6, 0.82), 0.9)


def drawn(name: str, seed: int, light: Light = DAY, season: str = "", portrait: bool = False) -> np.ndarray:
    """A thing alone on a transparent canvas, (160, 160, 4) uint8."""
    canvas, thing = Canvas((32, 32), 160), THINGS[name]
    said = dressed(np.random.default_rng(seed), thing, light, season, traits=PORTRAIT_TRAITS.get(name) if portrait else None)
    stand = Stand(thing, said.look, 0.5, 0.92, min(0.75, 0.4 / thing.half_width), said.flip)
    canvas.loose(lambda p: draw_standing(p, stand))
    return np.asarray(canvas.surface.makeImageSnapshot().toarray())


@pytest.mark.parametrize("name", THINGS)
def test_everything_is_drawn_where_it_stands_and_repeats(name):
    for seed in range(4):
        picture = drawn(name, seed)
        solid = picture[..., 3] > 200
        assert 0.01 < solid.mean() < 0.7
        ys, xs = np.nonzero(solid)
        # Standing on its spot (flying things float a little), not cut off at the sides.
        assert (0.5 if THINGS[name].place == "sky" else 0.72) * 160 < ys.max() < 0.97 * 160
        assert abs(xs.mean() - 80) < 30
        assert (picture == drawn(name, seed)).all()


@pytest.mark.parametrize("name", THINGS)
def test_night_is_darker_than_day_but_for_what_shines(name):
    if name in ("moon", "crescent moon", "sun", "campfire", "candle", "rainbow"):
        return
    day, night = (drawn(name, 3, light) for light in (DAY, NIGHT))
    solid = (day[..., 3] > 200) & (night[..., 3] > 200)
    assert night[solid][:, :3].mean() < day[solid][:, :3].mean()


@pytest.mark.parametrize("name", [t.name for t in THINGS.values() if t.colours])
def test_a_things_colour_is_seen(name):
    thing = THINGS[name]
    seen: dict[str, np.ndarray] = {}
    for seed in range(60):
        said = dressed(np.random.default_rng(seed), thing, DAY)
        if said.colour and said.colour not in seen:
            picture = drawn(name, seed).astype(float)
            seen[said.colour] = picture[picture[..., 3] > 200][:, :3].mean(0)
    assert len(seen) >= min(2, len(thing.colours))
    means = list(seen.values())
    assert max(np.abs(a - b).max() for a in means for b in means) > 8


@pytest.mark.parametrize("name", PORTRAIT_TRAITS)
def test_portraits_fill_more_than_figures(name):
    figure, portrait = ((drawn(name, 2, portrait=p)[..., 3] > 200).mean() for p in (False, True))
    assert portrait > 1.3 * figure


def test_shadows_lie_on_the_ground_away_from_the_light():
    canvas, thing = Canvas((32, 32), 160), THINGS["pine"]
    said = dressed(np.random.default_rng(0), thing, DAY)
    canvas.loose(lambda p: p.rect(0, 0, 1, 1, (200, 200, 200)))
    stand = Stand(thing, said.look, 0.5, 0.9, 0.7, False, sun=0.6)
    canvas.loose(lambda p: draw_shadow(p, stand, (200, 200, 200), DAY))
    dark = canvas.pixels().astype(int).mean(-1) < 190
    ys, xs = np.nonzero(dark)
    assert ys.min() > 0.5 * 160
    assert xs.max() - 80 > 80 - xs.min()


def test_paper_is_what_a_look_without_its_grain_lacks():
    flat = np.full((128, 192, 3), 120, np.uint8)
    for look in (*FINISH, "flat shapes"):
        pixels, bare = finished(np.random.default_rng(2), flat, look, 128)
        assert ((pixels != bare).any()) == (look in GRAIN)
        assert abs(float(pixels.mean()) - float(bare.mean())) < 2


@pytest.mark.parametrize("finish", FINISH)
def test_looks_change_every_picture_and_keep_it_recognisable(finish):
    plain = paint_scene(np.random.default_rng(7), 256).plain
    made, _ = finished(np.random.default_rng(1), plain, finish, 256)
    apart = np.abs(made.astype(int) - plain).mean()
    assert made.shape == plain.shape
    assert 1 < apart < 45
    assert np.corrcoef(made.ravel(), plain.ravel())[0, 1] > 0.4


@pytest.mark.parametrize("name", ["pine", "tree", "birch", "rock", "cloud", "cottage", "sailing boat", "man"])
def test_some_things_come_in_several_forms(name):
    def form(r: float) -> bytes:
        canvas = Canvas((32, 32), 160)
        traits = {"view": "front view", "posture": "standing", "hair": "brown hair", "wear": "blue coat"}
        look = Look(None, False, DAY, (*(0.5,) * 7, r), traits)
        canvas.loose(lambda p: draw_standing(p, Stand(THINGS[name], look, 0.5, 0.92, 0.4, False)))
        return canvas.pixels().tobytes()

    assert len({form(r) for r in (0.1, 0.5, 0.9)}) >= 2
    assert form(0.1) == form(0.12)


def test_the_worlds_tables_agree():
    assert set(SKY) == set(SKIES) == set(OFTEN)
    assert sum(OFTEN.values()) == pytest.approx(1)
    assert sum(len(g) for g in GROUPS.values()) == len(THINGS)
    words = set(vocabulary(tuple(THINGS)))
    for thing in THINGS.values():
        assert set(thing.colours) <= set(COLOURS)
        assert set(thing.name.split()) <= words


def test_a_figure_is_the_thing_as_it_is_drawn_looking_right():
    horses = draw_kind(THINGS["horse"], 5, 24)
    assert {t for d in horses for t in d.traits} == {"standing", "walking", "lying", "facing right"}
    for d in horses:
        assert SIDE - 4 <= max(d.mask.shape) <= SIDE
        assert d.mask.any(0).all()
        assert d.mask.any(1).all()
        # Its head is its highest part.
        assert np.nonzero(d.mask[: SIDE // 6])[1].mean() > 0.6 * d.mask.shape[1]
    assert len(draw_kind(THINGS["moon"], 5, 24)) == 1
    winters = [d for d in draw_kind(THINGS["birch"], 5, 24) if d.needs == ("winter",)]
    assert len(winters) == 1


def test_figures_are_written_as_a_pack_lists_them(tmp_path, monkeypatch):
    few = {name: THINGS[name] for name in ("fox", "cloud")}
    monkeypatch.setattr("training.figures.THINGS", few)
    monkeypatch.setattr("training.figures.PORTRAIT_TRAITS", {})
    stated = write_figures({"figures": {"looks": 24}}, tmp_path)
    figures = read_figures(tmp_path / stated["picture"], tmp_path / stated["list"])
    assert {f.label for f in figures} == {*few, "window", "curtains"}
    assert len(json.loads((tmp_path / stated["list"]).read_text())["figures"]) == len(figures)
    drawn = draw_kind(few["fox"], 0, 24)
    assert [f.mask.shape for f in figures if f.label == "fox"] == [d.mask.shape for d in drawn]
    assert all(((f.mask > 0) == d.mask).all() for f, d in zip(figures, drawn, strict=False))
    assert all(f.hangs == (f.label != "fox") for f in figures)


@pytest.mark.parametrize("name", ["woman", "man", "girl", "boy"])
def test_people_are_clothed_below_their_heads_and_things_are_not(name):
    assert all(0.15 < d.below < 0.6 for d in draw_kind(THINGS[name], 3, 8))
    assert all(0.4 < d.below < 1 for d in draw_kind(THINGS[name], 3, 3, PORTRAIT_TRAITS[name]))
    assert all(d.below == 0 for d in draw_kind(THINGS["fox"], 3, 2))


def test_places_are_boxes_of_whole_things_that_are_large_enough():
    shown = 0
    for number in range(12):
        scene = paint_scene(np.random.default_rng(number), 256, fine=2)
        for seen in seen_in(scene):
            shown += 1
            x0, y0, x1, y1 = seen.box
            assert 0 <= x0 < x1 <= 100
            assert 0 <= y0 < y1 <= 100
            # Only what ends at the edge by its nature may be cut there.
            assert (x0 > 0 and y0 > 0 and x1 < 100 and y1 < 100) or seen.needs == ("portrait",)
            assert (x1 - x0) * (y1 - y0) >= 80
            wide = [np.nonzero(p.mask > 0.35)[1] / p.mask.shape[1] for p in scene.parts if p.kind == seen.kind]
            assert any(len(xs) and abs(100 * xs.min() - x0) <= 1 for xs in wide)
    assert shown > 12


def test_places_are_written_as_a_pack_lists_them(tmp_path):
    stated = write_places(load_config(HERE / "tiny.toml"), tmp_path)
    spots, whole = read_places(tmp_path / stated["list"])
    assert set(spots) <= {*THINGS, "window", "curtains"}
    assert set(SKIES) <= set(whole)
    # A portrait is no figure that stands somewhere, and is large.
    near = [s.box for kind in ("woman", "man", "girl", "boy") for s in spots.get(kind, ()) if s.needs]
    assert all(y1 > 0.9 and x1 - x0 > 0.3 for x0, _, x1, y1 in near)
    stood = [s for kind in ("cottage", "fox", "tree", "cow", "woman", "boy", "rock") for s in spots.get(kind, ())]
    hung = [s for kind in ("cloud", "moon", "sun", "balloon", "bird") for s in spots.get(kind, ()) if s.horizon is not None]
    assert stood
    assert all(s.box[1] < 0.5 for s in hung)
    assert all(s.horizon is None or s.box[3] > s.horizon - 0.02 for s in stood)
