"""How strictly drawings are followed: guidance leads away from an empty sheet of paper, and near lines it leads on to the end."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from test_guides import commands_and_layouts_know, cross, files, rgba, told  # noqa: F401

from waldrand.core.noise.guidance import leads
from waldrand.core.packs import Quick
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe, settings_from_json
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.told.guides import Sketch, on_frame, sketched_lines
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.layers import LINES
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.packs.closed_form import ClosedFormPack


class Watched(ClosedFormPack):
    """The closed-form model, which notes what it is told of drawings, and how often it is asked."""

    def __init__(self) -> None:
        super().__init__()
        self.info = replace(self.info, guided=(0.3, 0.8))
        self.asked: list[tuple[float, np.ndarray | None]] = []
        self.calls = 0

    def answer(self, x, kept, hole, t, told, guides=None):
        self.calls += 1
        self.asked += [(t, None if guides is None or guides.lines is None else rows.drawn * guides.lines) for rows in told]
        return super().answer(x, kept, hole, t, told, guides)


def crossed(**more) -> Sheet:
    return told(LINES, rgba(255 - cross()), **more)


def made(sheet: Sheet, pack: ClosedFormPack, **more) -> np.ndarray:
    settings = PassSettings(**({"steps": 10, "seed": 3} | more))
    p = plan(sheet, Request("compose", settings), pack)
    pixels = run_take(p, pack, 3).pixels.astype(int)
    if isinstance(pack, Watched):
        assert len(pack.asked) == p.calls
        # What is told and what is led away from is asked for at once.
        assert pack.calls == len({t for t, _ in pack.asked})
    return pixels


@given(
    st.lists(st.floats(0, 1), min_size=1, max_size=30).map(lambda ls: sorted(ls, reverse=True)),
    st.floats(0, 1),
    st.floats(0, 1),
    st.booleans(),
)
def test_near_a_drawing_guidance_leads_on_and_nothing_more_is_asked(levels, a, b, drawing):
    guided = min(a, b), max(a, b)
    plain, drawn = leads(levels, guided, 0.05), leads(levels, guided, 0.05, drawing=drawing)
    assert [how if how != "near" else "none" for how in drawn] == plain
    assert all(
        (how == "near") == (drawing and t < guided[0] and "asked" in plain) for t, how in zip(levels, drawn, strict=True) if t < guided[0]
    )
    assert all(how != "near" for t, how in zip(levels, drawn, strict=True) if t > guided[1])


@pytest.mark.parametrize(("much", "left"), [(0.0, 1.0), (0.25, 0.75), (1.0, 0.0), (2.0, 0.0)])
def test_guidance_leads_away_from_less_of_the_drawing(much, left):
    pack = Watched()
    made(crossed(), pack, drawing_guidance=much)
    everywhere = max(lines.max() for _, lines in pack.asked)
    in_middle = [lines.max() for t, lines in pack.asked if 0.3 <= t <= 0.8]
    assert min(in_middle) == pytest.approx(left * everywhere)
    assert max(in_middle) == everywhere
    # Elsewhere only what is told is asked for.
    assert {lines.max() for t, lines in pack.asked if not 0.3 <= t <= 0.8} == {everywhere}


def test_lines_are_followed_the_more_strictly_and_grounds_stay():
    pictures = [made(crossed(opacity=0.25), Watched(), drawing_guidance=much) for much in (0.0, 0.5, 1.0)]
    dark = [p[124:132, 10:100].mean() for p in pictures]
    assert dark[0] > dark[1] > dark[2]
    assert all((p[10:80, 10:80] == pictures[0][10:80, 10:80]).all() for p in pictures)


@pytest.mark.parametrize("more", [{"guidance": 1.0}, {"quick": True}])
def test_without_guidance_nothing_leads(more):
    assert (made(crossed(), Watched(), drawing_guidance=2.0, **more) == made(crossed(), Watched(), drawing_guidance=0.0, **more)).all()


def test_a_quick_pass_is_guided_where_its_pack_says_and_only_near_what_is_drawn():
    undrawn = Sheet(256, 256, scene=SceneWords("green"))

    def quick(guidance: float, guided: tuple[float, float], sheet: Sheet | None = None) -> tuple[np.ndarray, int]:
        pack = Watched()
        pack.info = replace(pack.info, quick=Quick(4, 0.0, guidance, guided))
        return made(sheet or crossed(opacity=0.25), pack, quick=True), len(pack.asked)

    (plain, few), (led, more), (never, none) = quick(1.0, (0.0, 0.5)), quick(3.0, (0.0, 0.5)), quick(3.0, (0.0, 0.0))
    assert (few, more, none) == (4, 5, 4)
    assert (never == plain).all()
    assert led[124:132, 10:100].mean() < plain[124:132, 10:100].mean()
    assert (led[10:80, 10:80] == plain[10:80, 10:80]).all()
    assert (quick(3.0, (0.0, 0.5), undrawn)[0] == quick(1.0, (0.0, 0.5), undrawn)[0]).all()


def test_few_steps_are_led_within_things_and_along_lines_but_not_beside_them(closed):
    disc = np.hypot(*(np.mgrid[:64, :64] - 31.5)) < 32
    rim = disc & (np.hypot(*(np.mgrid[:64, :64] - 31.5)) > 29)
    sketch = Sketch((64.0, 64.0, 192.0, 192.0), *(np.uint8(255) * of for of in (rim, disc)), weight=0.5)
    sheet, by_hand = Sheet(256, 256, scene=SceneWords("green")), crossed(opacity=0.25, acts=(0.0, 0.5))
    frame = plan(sheet, Request("compose", PassSettings(quick=True)), closed).stages[0].frame
    led = on_frame(sheet, frame, (sketch,), closed.info).of_things(1.0)
    n = len(led)
    assert led[n // 2, n // 2] == pytest.approx(0.5)
    assert led[: n // 4].max() == led[:, : n // 4].max() == 0
    lines = on_frame(by_hand, frame, (), closed.info)
    assert lines.of_things(0.4)[n // 2 - 1, 2] == pytest.approx(0.25, abs=0.05)
    assert lines.of_things(0.4)[2, 2] == 0
    assert not lines.of_things(0.6).any()
    # Of the picture's own lines nobody says what is within them.
    whole = replace(sketch, mask=np.full_like(sketch.mask, 255), weight=1.0)
    led = on_frame(sheet, frame, (), closed.info, own=whole).of_things(1.0)
    assert led.max() > 0.9
    assert led[n // 2, n // 2] == 0


def test_without_a_drawing_nothing_is_different(closed):
    sheet = Sheet(256, 256, scene=SceneWords("green"))
    assert (made(sheet, closed, drawing_guidance=2.0) == made(sheet, closed, drawing_guidance=0.0)).all()


def test_a_drawing_leads_no_longer_than_it_acts():
    pack = Watched()
    made(crossed(acts=(0.0, 0.5)), pack, drawing_guidance=2.0)
    last = [lines for t, lines in pack.asked if t < 0.3]
    assert last
    assert all(lines is None for lines in last)
    assert min(lines.max() for t, lines in pack.asked if t > 0.7) == 0


def test_the_shipped_model_paints_a_sketchs_lines(own):
    e = Element(1, "owl", Outline("box", (96, 96, 416, 416)), "owl")
    sheet = Sheet(512, 512, elements=(e,), scene=SceneWords("meadow, flat shapes"))

    def on_edge(much: float) -> float:
        """How steep the picture is on the lines of the sketch, against elsewhere in its box."""
        p = plan(sheet, Request("compose", PassSettings(steps=8, drawing_guidance=much)), own)
        (sketch,) = p.stages[0].sketches
        pixels = run_take(p, own, 0).pixels.astype(float).mean(-1)
        lines = sketched_lines((sketch,), sheet.rect, 512, 512) > 0.5
        slope = np.hypot(*np.gradient(pixels))
        return float(slope[lines].mean())

    assert on_edge(1.0) > 1.05 * on_edge(0.0)


def test_older_recipes_followed_drawings_as_the_model_did(closed):
    assert settings_from_json({"steps": 5}).drawing_guidance == 0.0
    sheet = crossed()
    done = run_take(plan(sheet, Request("compose", PassSettings(steps=4, drawing_guidance=0.0)), closed), closed, 3).laid_on(sheet, "take")
    recipe = json.loads(json.dumps(picture_recipe(done)))
    del recipe["passes"][0]["recipe"]["settings"]["drawing_guidance"]
    assert (repeat(recipe, closed).pixels == done.flatten()).all()


@pytest.mark.parametrize("much", [-0.1, 2.5, float("nan")])
def test_what_is_outside_its_range_is_refused(closed, much):
    with pytest.raises(Refused, match="Guidance by drawings"):
        made(crossed(), closed, drawing_guidance=much)


def test_commands_and_layouts_know_it(files, capsys):  # noqa: F811
    commands_and_layouts_know(files, capsys, "drawing_guidance", "0", "1.5", "3")


# --- what is told of the noise


def levels_told(pack: Listening, request: Request, sheet: Sheet) -> list[float]:
    pack.levels = []
    run_take(plan(sheet, request, pack), pack, 0)
    return pack.levels


class Listening(ClosedFormPack):
    """Remembers the noise levels that it is told."""

    def __init__(self, told: float) -> None:
        super().__init__()
        self.info, self.levels = replace(self.info, told=told), list[float]()

    def answer(self, x, kept, hole, level, asked, guides=None):
        self.levels.append(level)
        return super().answer(x, kept, hole, level, asked, guides)


def test_where_all_is_painted_anew_the_network_is_told_of_less_noise_and_nowhere_else(painted):
    plain, less = Listening(1.0), Listening(0.9)

    def both(kind: str, **more) -> list[list[float]]:
        sheet = painted if kind == "rework" else Sheet(256, 256, scene=painted.scene)
        return [levels_told(pack, Request(kind, PassSettings(steps=6, **more)), sheet) for pack in (plain, less)]

    for kind, more in (("compose", {}), ("rework", {"strength": 0.9})):
        was, now = both(kind, **more)
        assert now == pytest.approx([0.9 * t for t in was])
    for kind, more in (("compose", {"quick": True}), ("rework", {"strength": 0.5})):
        was, now = both(kind, **more)
        assert now == was
