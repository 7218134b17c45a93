"""The training, run through at its tiniest; needs the training packages."""

from __future__ import annotations

import json
import shutil
import sys
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy import ndimage

pytest.importorskip("torch")
pytest.importorskip("skia")
pytestmark = pytest.mark.training

sys.path.insert(0, str(Path(__file__).parent.parent / "benchmarks"))

from training import (
    add_on,
    clumsy,
    export,
    extras,
    fidelity,
    from_pack,
    judge_finder,
    latent,
    quantise,
    real,
    render,
    rework,
    samples,
    soup,
    train_denoiser,
    train_drawn,
    train_enlarger,
    train_finder,
    train_light,
)
from training.config import HERE, load_config, work_folder
from training.decoder import Decoder
from training.manifest import OWN_PACK
from training.networks import Enlarger
from training.world.canvas import SHAPES
from training.world.scene import kinds, paint_scene
from training.world.things import THINGS
from training.world.words import IGNORED, PARTS, SYNONYMS, vocabulary
from waldrand.packs.manifest import QUICK
from waldrand.packs.onnx_pack import OnnxPack


@pytest.fixture(scope="module")
def config(tmp_path_factory):
    c = load_config(HERE / "tiny.toml", tmp_path_factory.mktemp("work"))
    render.render_all(c)
    return c


@pytest.fixture(scope="module")
def trained(config):
    """The config, its denoiser and enlarger trained."""
    train_denoiser.train(config)
    train_enlarger.train(config)
    return config


def work_beside(config, folder: Path):
    """The config with a work folder of its own, which has the same scenes and representation and no checkpoints."""
    folder.mkdir()
    for name in ("scenes", "latent.npz"):
        if (work_folder(config) / name).exists():
            (folder / name).symlink_to(work_folder(config) / name)
    return config | {"work": str(folder)}


def test_scenes_repeat_by_number_and_know_their_masks():
    a, b = (paint_scene(render.scene_rng(12), 256) for _ in range(2))
    assert (a.pixels == b.pixels).all()
    assert a.parts
    for part in a.parts:
        assert part.mask.shape == (32, 32)
        assert 0 <= part.mask.min() <= part.mask.max() <= 1
    assert sum(p.mask for p in a.parts).max() <= 1.001


def test_a_scene_at_another_size_is_the_same_scene():
    small, large = paint_scene(render.scene_rng(5), 128), paint_scene(render.scene_rng(5), 256)
    assert [p.kind for p in small.parts] == [p.kind for p in large.parts]
    for of_small, of_large, most in ((small.plain, large.plain, 4), (small.pixels, large.pixels, 8)):
        assert np.abs(of_large.reshape(128, 2, 128, 2, 3).mean((1, 3)) - of_small).mean() < most


def test_every_word_of_the_world_can_be_said():
    words = set(vocabulary(kinds()))
    assert len(THINGS) >= 90
    for own in SYNONYMS.values():
        assert set(own.split()) <= words
    assert not set(IGNORED) & words


def test_all_that_is_said_is_in_the_vocabulary(config):
    words = set(vocabulary(kinds()))
    for group in train_denoiser.make_sampler(config, 0).scenes.groups:
        for caption in group.captions:
            spoken = [*caption["words"], *(p["kind"] for p in caption["parts"])]
            spoken += [said for p in caption["parts"] for said, _ in (*p["before"], *p["after"])]
            assert {w for phrase in spoken for w in phrase.split()} <= words


@pytest.mark.parametrize("shape", SHAPES)
def test_scenes_of_every_shape_fill_it(shape):
    w, h = shape
    scene = paint_scene(render.scene_rng(w * h), 64, shape)
    assert scene.pixels.shape == (2 * h, 2 * w, 3)
    assert all(p.mask.shape == (h, w) for p in scene.parts)
    assert scene.lines().shape == scene.pixels.shape[:2]
    assert 0 <= scene.depth().min() < scene.depth().max() <= 1.001


@pytest.mark.parametrize("window", [16, 0])
def test_samples_are_whole(config, window):
    sampler = train_denoiser.make_sampler(config, window)
    batch = sampler.batch(np.random.default_rng(0), 32)
    h, w = batch.hole.shape[1:]
    assert (h, w) == (16, 16) if window else (w, h) in SHAPES
    assert batch.pixels.shape == (32, 4 * h, 4 * w, 3)
    assert batch.outline.shape[2:] == (h, w)
    assert set(np.unique(batch.kind)) <= {0, 1, 2}
    assert (batch.ids[batch.kind == 0] == 0).all()
    assert (batch.ids[batch.kind > 0][:, 0] > 0).all()
    assert 0 <= batch.outline.min() <= batch.outline.max() <= 1
    assert set(np.unique(batch.hole)) <= {0, 1}


def test_close_views_show_parts_of_scenes_larger(tmp_path: Path):
    count = 6
    render.render_close(tmp_path / "close.npz", render.CLOSE, count)
    with np.load(tmp_path / "close.npz") as z:
        pixels, masks, captions = z["pixels"], z["masks"].astype(float) / 255, json.loads(str(z["captions"]))
    assert pixels.shape == (count, 128, 128, 3)
    assert masks.shape == (count, render.MOST_PARTS, 32, 32)
    assert len(captions) == count
    assert masks.sum(1).max() <= 1.02
    closer = []
    for i, caption in enumerate(captions):
        whole = paint_scene(render.scene_rng(render.CLOSE + i // render.VIEWS), 256)
        assert caption["words"] == list(whole.words)
        sizes: dict[str, float] = {}
        for part in whole.parts:
            sizes[part.kind] = max(sizes.get(part.kind, 0), part.mask.sum())
        for part, mask in zip(caption["parts"], masks[i], strict=False):
            assert part["kind"] in sizes
            assert mask.sum() > 1
            if not part["big"]:
                closer.append(mask.sum() / sizes[part["kind"]])
        assert not masks[i, len(caption["parts"]) :].any()
    assert np.median(closer) > 1.3
    before = (tmp_path / "close.npz").read_bytes()
    (tmp_path / "close.npz").unlink()
    render.render_close(tmp_path / "close.npz", render.CLOSE, count)
    with np.load(tmp_path / "close.npz") as z:
        assert (z["pixels"] == pixels).all()
    assert len(before) == (tmp_path / "close.npz").stat().st_size


def test_near_views_show_parts_of_things_as_large_and_sharp_as_wholes(tmp_path: Path):
    count = 10
    render.render_near(tmp_path / "near.npz", render.NEAR, count)
    render.render_close(tmp_path / "close.npz", render.CLOSE, count)
    largest = {}
    for of in ("near", "close"):
        with np.load(tmp_path / f"{of}.npz") as z:
            assert z["pixels"].shape == (count, 128, 128, 3)
            assert len(json.loads(str(z["captions"]))) == count
            largest[of] = z["named"].astype(float).sum((2, 3)).max(1) / 255
    assert (largest["near"] > 20).mean() > 0.7
    assert np.median(largest["near"]) > 2 * np.median(largest["close"])


def test_a_view_is_a_part_of_the_same_scene_drawn_larger():
    whole = paint_scene(render.scene_rng(33), 1024)
    near = paint_scene(render.scene_rng(33), 512, view=(0.25, 0.5, 2.0))
    # Their looks lie on them by pixels; what is under these is the same.
    apart = np.abs(near.plain.astype(int) - whole.plain[512:1024, 256:768])
    assert apart.mean() < 1.5
    assert near.words == whole.words


def test_parts_of_things_are_told_near_by_with_what_is_known_of_them(config):
    owner = {"before": [["lit", 0.3]], "after": [["brown hair", 0.5], ["smiling", 0.5], ["green eyes", 0.0]]}
    rng = np.random.default_rng(0)
    said = {name: {samples.said_of_part(name, owner, rng) for _ in range(40)} for name in ("hair", "eyes", "face", "hands")}
    assert said == {
        "hair": {"hair", "brown hair"},
        "eyes": {"eyes", "green eyes"},
        "face": {"face", "face smiling"},
        "hands": {"hands"},
    }
    sampler = train_denoiser.make_sampler(config, 0, near=True)
    ids = {sampler.ids[name] for name in PARTS}
    batches = [sampler.batch(rng, 4) for _ in range(6)]
    assert any(ids & set(batch.ids.ravel()) for batch in batches)


def test_the_extras_pictures_are_drawn_the_same_every_time():
    for name in extras.EXTRAS:
        one, again = (extras.pictures_of(name, 2) for _ in range(2))
        assert all((a.pixels == b.pixels).all() and len(a.said) == len(b.said) for a, b in zip(one, again, strict=True))
        assert one[0].pixels.shape == (extras.SIDE, extras.SIDE, 3)
        assert (one[0].pixels != one[1].pixels).any()
    blue = extras.pictures_of("cyanotype", 3)
    assert all((p.pixels[..., 2].astype(int) >= p.pixels[..., 0]).all() for p in blue)
    assert all(p.own is not None and p.own.max() > 0.9 for p in extras.pictures_of("snail", 2))
    shapes = extras.figures_of(extras.SNAIL)
    assert all(f.mask.any() and f.lines.any() and f.traits == {"facing right"} for f in shapes)


def test_a_cut_out_becomes_the_figure_of_an_add_on():
    cut = np.zeros((60, 90, 4), np.uint8)
    cut[10:50, 20:80] = (200, 60, 40, 255)
    cut[20:40, 40:60, :3] = (30, 40, 160)
    figure = add_on.figure_of(cut, "chest")
    assert (figure.label, figure.ratio) == ("chest", 1.5)
    assert figure.mask.min() == 255
    assert figure.lines.shape == tuple(2 * n for n in figure.mask.shape)
    h, w = figure.lines.shape
    # Round the blue in its middle, not within.
    assert figure.lines[h // 4 - 6 : h // 4 + 6, w // 2].max() > 100
    assert figure.lines[h // 2, w // 2] == 0
    with pytest.raises(ValueError, match="no shape"):
        add_on.figure_of(np.zeros((5, 5, 4), np.uint8), "x")


def test_fine_masks_are_the_same_masks_finer():
    coarse, fine = paint_scene(render.scene_rng(21), 256), paint_scene(render.scene_rng(21), 256, fine=4)
    assert (coarse.pixels == fine.pixels).all()
    assert [p.kind for p in coarse.parts] == [p.kind for p in fine.parts]
    for a, b in zip(coarse.parts, fine.parts, strict=True):
        apart = np.abs(b.mask.reshape(32, 4, 32, 4).mean((1, 3)) - a.mask)
        # Where parts hide each other, hiding is told in finer pieces.
        assert apart.max() < 0.2
        assert apart.mean() < 0.005


def test_training_sees_close_views_and_the_validation_only_wholes(config):
    c = config["render"]
    assert len(train_denoiser.make_sampler(config, 0).scenes) == c["scenes"] + c["close"] + c["near"]
    assert len(train_denoiser.make_sampler(config, 0, held_out=True).scenes) == c["held_out"]


@given(
    box=st.tuples(st.integers(0, 24), st.integers(0, 24), st.integers(2, 8), st.integers(2, 8)),
    seed=st.integers(0, 1000),
    roomy=st.sampled_from([0.0, 0.5, 1.0]),
)
def test_an_outline_covers_most_of_its_thing_however_roomy(box, seed, roomy):
    x, y, w, h = box
    mask = np.zeros((32, 32), np.float32)
    mask[y : y + h, x : x + w] = 1
    outline = samples.loosen(mask, np.random.default_rng(seed), roomy)
    assert outline.shape == mask.shape
    assert 0 <= outline.min() <= outline.max() <= 1
    assert outline[mask > 0].mean() > 0.6


def test_roomy_outlines_leave_more_room():
    mask = np.zeros((32, 32), np.float32)
    mask[10:22, 10:22] = 1
    tight, roomy = (np.mean([samples.loosen(mask, np.random.default_rng(i), r).sum() for i in range(200)]) for r in (0.0, 1.0))
    assert roomy > 1.25 * tight


def test_as_many_outlines_as_asked_for_are_the_things_own_shape():
    mask = np.zeros((32, 32), np.float32)
    mask[10:22, 10:22] = 0.8
    exact = [np.mean([samples.loosen(mask, np.random.default_rng(i), 0.0, e) is mask for i in range(400)]) for e in (0.12, 0.5, 1.0)]
    assert 0.06 < exact[0] < 0.18
    assert 0.42 < exact[1] < 0.58
    assert exact[2] == 1


def test_small_things_count_more_but_not_without_end(config):
    told = (0, 16, 8, 0.1, 0.2)
    scenes = train_denoiser.make_sampler(config, 0).scenes
    plain, heavy = (samples.Sampler(scenes, *told, 0.0, most).batch(np.random.default_rng(3), 24).things for most in (1.0, 2.5))
    assert plain.max() <= 1
    assert 1 < heavy.max() <= 2.5
    assert (heavy >= plain - 1e-6).all()
    assert ((heavy > 0) == (plain > 0)).all()


def test_as_many_samples_as_asked_for_are_at_the_last_levels_of_a_take(trained):
    import torch

    c = trained["denoiser"]
    loss = train_denoiser.Loss(trained, latent.Encoder(train_denoiser.load_latent(trained), trained["latent"]["shrink"]))

    def low(late: float, below: float = 1.0) -> float:
        return float((loss.times(4000, torch.Generator().manual_seed(2), late) < below * c["late_below"]).float().mean())

    usual = low(0.0)
    assert low(1.0) == 1
    assert 0.47 < low(1.0, 0.5) < 0.53
    assert low(0.3) == pytest.approx(0.3 + 0.7 * usual, abs=0.03)
    net = train_denoiser.build(trained)
    # One that is not trained answers nothing, at any level.
    net.load_state_dict(torch.load(work_folder(trained) / "denoiser.pt", weights_only=True)["average"])
    measure = train_denoiser.validation(trained, loss, 0)
    at_all, last = (measure(net, late=late) for late in (False, True))
    assert at_all != last


def test_scenes_with_rare_things_come_more_often_but_not_without_end():
    def scene(*things: str) -> dict[str, object]:
        return {"parts": [{"kind": "meadow", "big": True}, *({"kind": t, "big": False} for t in things)]}

    counts = {"fox": 1, "owl": 100, "cloud": 10_000}
    rare, both, middling, common, none = samples.rarity(
        [scene("fox"), scene("cloud", "fox"), scene("owl"), scene("cloud"), scene()], counts, 0.5
    )
    assert rare == both == samples.EVENED[1]
    assert middling == none == 1
    assert common == samples.EVENED[0]
    assert samples.rarity([scene("fox"), scene("cloud")], counts, 0.1) == pytest.approx([100**0.1, 100**-0.1])
    assert (samples.rarity([scene("fox"), scene("cloud")], counts, 0.0) == 1).all()


def test_drawing_by_rarity_evens_out_what_is_shown(config):
    scenes = train_denoiser.make_sampler(config, 0).scenes
    counts = Counter(p["kind"] for g in scenes.groups for c in g.captions for p in c["parts"] if not p["big"])

    def rare(even: float) -> float:
        sampler = samples.Sampler(scenes, 0, 16, 8, 0.0, 0.0, even=even)
        batches = [sampler.batch(np.random.default_rng(i), 24) for i in range(12)]
        # Told apart by their pictures: how rare the rarest thing of each is.
        rarest = {
            g.pixels[i].tobytes(): min((counts[p["kind"]] for p in c["parts"] if not p["big"]), default=0)
            for g in scenes.groups
            for i, c in enumerate(g.captions)
        }
        seen = [rarest.get(x.tobytes(), rarest.get(x[:, ::-1].tobytes())) for b in batches for x in b.pixels]
        return float(np.mean([n == 1 for n in seen]))

    assert rare(2.0) > rare(0.0)
    drawn, alike = samples.Draw(scenes, 0.5), samples.Draw(scenes, 0.0)
    for number, group in enumerate(scenes.groups):
        often, rarest = drawn.often(number), samples.rarity(group.captions, counts, 0.5)
        assert often == pytest.approx(rarest / rarest.mean())
        assert alike.often(number).tolist() == [1.0] * len(group.captions)


def test_animals_and_people_come_more_often(config):
    scenes = train_denoiser.make_sampler(config, 0).scenes
    for number, group in enumerate(scenes.groups):
        alike, more = (samples.Draw(scenes, 0.5, living).often(number) for living in (1, 3))
        lively = samples.lively(group.captions, 3)
        assert set(lively) <= {1.0, 3.0}
        assert more / alike == pytest.approx(lively * (more / alike / lively)[0])

    def near(living: int) -> float:
        """How many windows have an animal or a person among their phrases."""
        sampler, rng = samples.Sampler(scenes, 8, 16, 8, 0.0, 0.0, living=living), np.random.default_rng(1)
        ids = {sampler.ids[w] for kind in samples.LIVING for w in kind.split()}
        batches = [sampler.batch(rng, 24) for _ in range(8)]
        return float(np.mean([np.isin(b.ids, list(ids)).any((1, 2)).mean() for b in batches]))

    assert near(8) > near(1)


def test_scenes_under_stars_drops_and_flakes_come_more_often_but_not_those_behind_a_window(config):
    scenes = train_denoiser.make_sampler(config, 0).scenes
    under = behind = 0
    for number, group in enumerate(scenes.groups):
        alike, more = (samples.Draw(scenes, 0.5, dots=dots).often(number) for dots in (1.0, 4.0))
        ratio = more / alike
        for caption, gained in zip(group.captions, ratio / ratio.min(), strict=True):
            dotted, indoors = bool(samples.DOTTED & set(caption["words"])), any(p["kind"] == "wall" for p in caption["parts"])
            under, behind = under + (dotted and not indoors), behind + (dotted and indoors)
            assert gained == pytest.approx(4.0 if dotted and not indoors else 1.0)
    assert under
    assert behind


def test_phrases_hide_outside_their_outlines_and_rows_without_one_everywhere(config):
    import torch

    torch.manual_seed(0)
    net = train_denoiser.build(config).denoiser
    for p in net.parameters():
        torch.nn.init.normal_(p, std=0.1)
    c, d = config["latent"]["channels"], config["denoiser"]["words"]
    x, told = torch.randn(1, c, 8, 8), torch.randn(1, 3, d)
    outline = torch.zeros(1, 3, 8, 8)
    outline[:, 1:, :, :4] = 1

    @torch.no_grad()
    def answer(kinds: list[float]) -> torch.Tensor:
        n = len(kinds)
        told_here = torch.cat([told, torch.randn(1, 4, d)], 1)[:, :n]
        shapes = torch.cat([outline, torch.rand(1, 4, 8, 8)], 1)[:, :n]
        rest = (told_here, torch.tensor([kinds]), shapes, torch.ones(1, n))
        return net(x, 0 * x, torch.ones(1, 1, 8, 8), torch.tensor([0.5]), *rest)

    assert torch.allclose(answer([1, 2, 2]), answer([1, 2, 2, 0, 0, 0, 0]), atol=1e-5)
    assert not torch.allclose(answer([1, 2, 2]), answer([1, 2, 0]), atol=1e-2)


def test_weights_are_averaged_with_the_packs_as_the_validation_says(trained, tmp_path: Path):
    import torch

    export.export(trained, tmp_path / "pack")
    there = work_beside(trained, tmp_path / "work")
    state = torch.load(work_folder(trained) / "denoiser.pt", weights_only=True)
    spoiled = {k: v + 0.1 for k, v in state["average"].items()}
    path = tmp_path / "work" / "denoiser.pt"
    torch.save(state | {"average": spoiled}, path)
    share, value = soup.stir_into(there, tmp_path / "pack", shares=(0.5,))
    assert share == 0
    net = train_denoiser.build(there)
    loss = train_denoiser.Loss(there, latent.Encoder(train_denoiser.load_latent(there), there["latent"]["shrink"]))
    told = [train_denoiser.validation(there, loss, 0, shaped) for shaped in (False, True)]

    def measure(painter):
        return np.prod([one(painter) for one in told]) ** 0.5

    net.load_state_dict(spoiled)
    assert value < measure(net)
    kept = torch.load(path, weights_only=True)
    assert all(torch.allclose(kept["average"][k], v, atol=1e-2) for k, v in state["average"].items())
    assert all(torch.equal(kept["net"][k], v) for k, v in state["net"].items())
    net.load_state_dict(kept["average"])
    assert value == pytest.approx(measure(net), rel=1e-4)

    train_finder.train(there)
    export.export_finder(there, tmp_path / "pack")
    finder = tmp_path / "work" / "finder.pt"
    state = torch.load(finder, weights_only=True)
    torch.save(state | {"net": {k: v + 0.3 for k, v in state["net"].items()}}, finder)
    assert soup.stir_into(there, tmp_path / "pack", "finder", (0.5,))[0] == 0
    kept = torch.load(finder, weights_only=True)
    assert all(torch.allclose(kept["net"][k], v, atol=1e-2) for k, v in state["net"].items())
    assert kept["minutes"] == state["minutes"]

    a, b = {"w": torch.tensor([0.0])}, {"w": torch.tensor([4.0])}
    one = torch.nn.Module()
    one.register_parameter("w", torch.nn.Parameter(torch.zeros(1)))
    assert soup.best(one, a, b, (0.25, 0.5), lambda n: abs(float(n.w.detach()) - 1.1)) == (0.25, pytest.approx(0.1))
    assert one.w.item() == 1


def test_an_enlarger_heeds_what_was_painted_only_once_it_has_learned_to(trained, tmp_path: Path):
    import torch

    from training.networks import Enlarger

    export.export(trained, tmp_path / "pack")
    weights = from_pack.read_enlarger(tmp_path / "pack")[0]
    x, yes, no = torch.rand(1, 3, 12, 12) * 2 - 1, torch.ones(1, 1, 12, 12), torch.zeros(1, 1, 12, 12)
    net = Enlarger(trained["enlarger"]["channels"], trained["enlarger"]["blocks"])
    weights["into.weight"][:, 3] = 0
    net.load_state_dict(weights)
    assert torch.equal(net(x, yes), net(x, no))
    with torch.no_grad():
        net.into.weight[:, 3] = 1
        net.out.weight += 0.1
    assert not torch.allclose(net(x, yes), net(x, no))


def test_mirrored_parts_face_the_other_way():
    part = {"kind": "fox", "before": [["red", 0.9]], "after": [["facing left", 0.6], ["walking", 0.5]], "big": False}
    said = {samples.said(part, np.random.default_rng(i), mirrored=True) for i in range(50)}
    assert "red fox facing right" in said
    assert "fox walking" in said
    assert not any("facing left" in s for s in said)


def test_nothing_longer_is_said_than_the_model_reads():
    part = {
        "kind": "woman",
        "before": [["large", 1.0]],
        "after": [["red coat", 1.0], ["blonde hair", 1.0], ["back view", 1.0], ["yellow hat", 1.0]],
    }
    assert len(samples.said(part, np.random.default_rng(0), mirrored=False).split()) == 8


def test_linear_representation_inverts_but_for_what_is_cut(config):
    import torch

    pictures = samples.Scenes(sorted((work_folder(config) / "scenes").glob("chunk-*.npz"))).groups[0].pixels[:20]
    lat = latent.fit(pictures, config)
    x = torch.from_numpy(pictures[:4]).permute(0, 3, 1, 2).float() / 127.5 - 1
    back = latent.Preview(lat)(latent.Encoder(lat, 4).small(x))
    assert float((back - x).pow(2).mean()) < 1e-3


def test_what_no_denoiser_painted_is_drawn_true_to_its_latent(config):
    import torch

    from training.decoder import Decoder
    from training.networks import Enlarger

    torch.manual_seed(1)
    scenes = np.concatenate([np.load(p)["pixels"] for p in sorted((work_folder(config) / "scenes").glob("sharp-*.npz"))])
    lat = latent.fit(render.shrunk(scenes, 4), config)
    decoder = Decoder(lat, 4, Enlarger(8, 1)).eval()
    # One that guesses badly.
    torch.nn.init.normal_(decoder.enlarger.out.weight, std=0.02)
    with torch.no_grad():
        z = decoder.encoder(latent.as_input(scenes[:2]) / 2 + 0.5)
        no, yes = (torch.full((2, 1, *z.shape[2:]), v) for v in (0.0, 1.0))
        off = [float((decoder.encoder.small(torch.nn.functional.avg_pool2d(decoder.drawn(z, w), 4)) - z).abs().mean()) for w in (no, yes)]
        assert off[0] < 0.4 * off[1]
        assert torch.equal(decoder.drawn(z, yes), decoder.enlarger(decoder.preview(z).clamp(-1, 1), torch.ones(2, 1, 128, 128)))
        # Each place as it is itself.
        half = no.clone()
        half[..., :16] = 1
        drawn = decoder.drawn(z, half)
        assert torch.allclose(drawn[..., :200], decoder.drawn(z, yes)[..., :200])
        assert torch.allclose(drawn[..., 320:], decoder.drawn(z, no)[..., 320:], atol=1e-5)


def test_edges_that_are_kept_are_told_from_edges_that_are_lost():
    true = np.zeros((32, 32, 3), np.float32)
    true[:, 16:] = 1
    soft = (np.roll(true, 1, 1) + true) / 2
    soft[:, 0] = 0
    psnr, kept = fidelity.judged(true + np.float32(1e-4), true)
    assert psnr > 75
    assert kept == pytest.approx(1, abs=1e-3)
    assert fidelity.judged(soft, true)[1] == pytest.approx(0.5, abs=1e-3)
    assert fidelity.judged(np.zeros_like(true), true)[0] == pytest.approx(3.01, abs=0.01)


def test_train_stop_resume_export_and_start_from_the_pack(config, tmp_path: Path):
    import torch

    # In a folder of its own: where another test has trained to the end, nothing would be left to stop.
    config = work_beside(config, tmp_path / "own")
    first = torch.load(train_denoiser.train(config, stop_after=0.02), weights_only=True)
    path = train_denoiser.train(config)
    state = torch.load(path, weights_only=True)
    assert state["minutes"] >= 0.1
    assert state["steps"] > first["steps"] > 0
    assert state["steps"] > 2
    train_enlarger.train(config)
    result = export.export(config, tmp_path / "pack")
    assert max(result["differences"].values()) < 1e-3
    pack = OnnxPack(tmp_path / "pack")
    assert pack.read("red fox")[0]
    weights, minutes = from_pack.read_weights(tmp_path / "pack")
    average = state["average"]
    assert all((weights[k] - v).abs().max() <= 1e-2 * (1 + v.abs().max()) for k, v in average.items())
    assert minutes == pytest.approx(state["minutes"], abs=0.1)
    fitted, kept = train_denoiser.load_latent(config), from_pack.read_latent(tmp_path / "pack")
    assert kept.patch == fitted.patch
    for name in ("mean", "forward", "backward"):
        assert getattr(kept, name) == pytest.approx(getattr(fitted, name), rel=2e-3, abs=2e-3)
    enlarger = torch.load(work_folder(config) / "enlarger.pt", weights_only=True)["net"]
    for name, values in from_pack.read_enlarger(tmp_path / "pack")[0].items():
        assert torch.allclose(values, enlarger[name], atol=1e-2)


def test_an_enlarger_draws_as_strongly_as_stated_and_is_trained_on_as_it_was(trained, tmp_path: Path):
    import torch

    pack, strong = tmp_path / "pack", 1.5
    shutil.copytree(OWN_PACK, pack)
    export.export_decoder(trained | {"enlarger": trained["enlarger"] | {"sharper": strong}}, pack)
    taught = torch.load(work_folder(trained) / "enlarger.pt", weights_only=True)["net"]["out.weight"].numpy()
    assert np.abs(taught).max() > 0
    assert from_pack.read_graph(pack, "decoder")["enlarger.out.weight"].numpy() == pytest.approx(strong * taught, rel=2e-3, abs=1e-6)
    assert from_pack.read_enlarger(pack)[0]["out.weight"].numpy() == pytest.approx(taught, rel=2e-3, abs=1e-6)
    assert OnnxPack(pack).info.version.split(".")[3] == "50"
    # Without a checkpoint it is the installed pack's, where that is of the same size.
    without = work_beside(trained, tmp_path / "work")
    with pytest.raises(ValueError, match="train_enlarger"):
        export.load_enlarger(without)
    full = load_config()
    enlarger, stated = export.load_enlarger(full | {"work": str(tmp_path / "work")})
    installed = from_pack.read_graph(OWN_PACK, "decoder")["enlarger.out.weight"]
    assert stated["enlarger_minutes"] == from_pack.read_enlarger(OWN_PACK)[1]
    assert enlarger.out.weight.detach().numpy() == pytest.approx(installed.numpy(), rel=2e-3, abs=1e-6)


def test_training_goes_on_from_a_pack_without_checkpoints(trained, tmp_path: Path):
    config = trained
    export.export(config, tmp_path / "pack")
    import torch

    folder = tmp_path / "work"
    (folder).mkdir()
    (folder / "scenes").symlink_to(work_folder(config) / "scenes")
    path = train_denoiser.train(config | {"work": str(folder)}, from_pack=tmp_path / "pack")
    state = torch.load(path, weights_only=True)
    assert state["before"] == from_pack.read_weights(tmp_path / "pack")[1]
    assert state["minutes"] >= state["before"] + sum(phase["minutes"] for phase in config["denoiser"]["phase"])
    assert state["steps"] >= 2


def test_a_wider_network_begins_where_the_narrower_one_ended(trained, tmp_path: Path):
    import torch

    export.export(trained, tmp_path / "pack")
    weights, minutes = from_pack.read_weights(tmp_path / "pack")
    narrow = train_denoiser.build(trained).eval()
    narrow.load_state_dict(weights)
    c = trained["denoiser"]
    a, b, last = c["channels"]
    run = train_denoiser.Run(trained | {"denoiser": c | {"channels": [2 * a, b, last]}})
    run.start_from(weights, minutes)
    batch = train_denoiser.make_sampler(trained, 16).batch(np.random.default_rng(2), 3)
    x = torch.randn(3, trained["latent"]["channels"], 16, 16, generator=torch.Generator().manual_seed(1))
    told = [torch.from_numpy(v) for v in (batch.ids, batch.kind, batch.outline, batch.weight)]
    inputs = (x, torch.zeros_like(x), torch.ones(3, 1, 16, 16), torch.tensor([0.2, 0.5, 0.9]), *told)
    with torch.no_grad():
        before, after = narrow(*inputs), run.net(*inputs)
    assert before.abs().max() > 0.01
    assert torch.allclose(before, after, atol=1e-5)
    # What was added learns at once: nothing of it is stuck at zero.
    run.net(*inputs).square().sum().backward()
    fine = run.net.denoiser.out.weight.grad
    assert fine[:, a:].abs().max() > 0
    with pytest.raises(ValueError, match="finest level"):
        train_denoiser.Run(trained | {"denoiser": c | {"channels": [a, b, 2 * last]}}).start_from(weights, minutes)


def test_a_finder_grown_by_half_still_tells_nearly_the_same(trained, tmp_path: Path):
    import torch

    export.export(trained, tmp_path / "pack")
    train_finder.train(trained)
    export.export_finder(trained, tmp_path / "pack")
    weights, _ = from_pack.read_finder(tmp_path / "pack")
    narrow = train_finder.build(trained)
    narrow.load_state_dict(weights)
    c = trained["finder"]
    wide = train_finder.build(trained | {"finder": c | {"channels": [3 * n // 2 for n in c["channels"]]}})
    x = torch.rand(2, 3, 64, 96, generator=torch.Generator().manual_seed(3)) * 2 - 1
    apart = {}
    for noise in (0.0, 0.1):
        wide.load_state_dict(from_pack.half_again(weights, wide.state_dict(), noise))
        with torch.no_grad():
            before, after = narrow(x)[0], wide(x)[0]
        apart[noise] = float((after - before).std() / before.std())
    with torch.no_grad():
        other = train_finder.build(trained)(x)[0]
    assert apart[0.0] < apart[0.1] < 0.5 * float((other - before).std() / before.std())
    # The two of a pair differ, so that they can part.
    column = wide.state_dict()["out.weight"][:, :3, 0, 0]
    assert not torch.allclose(column[:, 0], column[:, 2])
    with pytest.raises(ValueError, match="half as many"):
        from_pack.half_again(weights, narrow.state_dict() | {"out.bias": torch.zeros(7)})


def test_a_pack_of_before_the_noise_was_carried_past_can_be_gone_on_from(trained, tmp_path: Path):
    import torch

    export.export(trained, tmp_path / "pack")
    weights, minutes = from_pack.read_weights(tmp_path / "pack")
    run = train_denoiser.Run(trained)
    run.start_from({k: v for k, v in weights.items() if "through" not in k}, minutes)
    assert all(not v.any() for k, v in run.net.state_dict().items() if "through" in k)
    assert torch.equal(run.net.state_dict()["denoiser.into.weight"], weights["denoiser.into.weight"])


@pytest.mark.parametrize("shape", [(12, 40), (40, 12), (16, 16)])
def test_steps_of_matrices_are_half_orthogonal(shape):
    import torch

    from training.optimiser import orthogonal

    torch.manual_seed(1)
    values = torch.linalg.svdvals(orthogonal(torch.randn(*shape)))
    # Five rounds bring all but the smallest singular values near 1.
    assert values[: len(values) // 2].min() > 0.6
    assert values.max() < 1.4


def test_the_finder_learns_from_what_is_true(trained, tmp_path: Path):
    config = trained
    import torch

    rework.rework_all(config)
    train_finder.train(config)
    state = torch.load(work_folder(config) / "finder.pt", weights_only=True)
    assert state["steps"] > 2
    scenes = samples.Scenes(sorted((work_folder(config) / "scenes").glob("held-out-*.npz")))
    truth = train_finder.Truth(scenes, train_denoiser.load_latent(config), config["latent"]["shrink"], 0.0)
    pictures, cells, whole = truth.batch(np.random.default_rng(1), 6)
    assert pictures.shape[2:] == tuple(4 * n for n in cells.shape[2:])
    assert (cells[:, : len(kinds())].amax((1, 2, 3)) > 0.5).all()
    assert (whole.sum(1) >= 1).all()
    net = train_finder.build(config)
    net.load_state_dict(state["net"])
    export.export(config, tmp_path / "pack")
    result = export.export_finder(config, tmp_path / "pack")
    assert result["difference"] < 1e-3
    finder = OnnxPack(tmp_path / "pack").finder
    assert finder.labels_of("red rowing boat facing left")[0] == finder.labels.index("rowing boat")
    assert {finder.labels[i] for i in finder.labels_of("red rowing boat facing left")[1:]} == {"red", "facing left"}
    assert finder.labels_of("red") == ()
    maps, whole = finder.look(np.zeros((64, 128, 3), np.float32))
    assert maps.shape == (len(finder.labels), 4, 8)
    assert whole.shape == (len(finder.whole),)
    table = train_finder.judged(net, truth, 1, 6)
    assert set(table) == set(train_finder.labels())
    assert all(0 <= v <= 1 for row in table.values() for v in (row.precision, row.recall, row.overlap))
    assert judge_finder.judge(config, tmp_path / "pack", batches=1).keys() == table.keys()

    noise = np.random.default_rng(0).random((64, 128, 3)).astype(np.float32)
    # Carried over as it is, also where the very pack is written over.
    for out in (tmp_path / "other", tmp_path / "pack"):
        export.export(config, out, finder_of=tmp_path / "pack")
        carried = OnnxPack(out).finder
        assert (carried.look(noise)[0] == finder.look(noise)[0]).all()
        assert carried.labels == finder.labels
    export.export(config, tmp_path / "other")
    with pytest.raises(ValueError, match="no finder"):
        export.export(config, tmp_path / "pack", finder_of=tmp_path / "other")
    assert OnnxPack(tmp_path / "pack").finder.labels == finder.labels

    on = work_beside(config, tmp_path / "work") | {"finder": config["finder"] | {"minutes": 0.0}}
    went_on = torch.load(train_finder.train(on, from_pack=tmp_path / "pack"), weights_only=True)
    assert went_on["before"] == pytest.approx(state["minutes"], abs=0.06)
    assert all(torch.allclose(went_on["net"][name], state["net"][name], atol=1e-2) for name in state["net"])


def test_weights_of_equal_values_are_not_lost_in_a_pack(trained, tmp_path: Path):
    """The exporter keeps one of several, and of untrained networks many are equal."""
    import torch

    from training.networks import Enlarger

    untrained = {name: trained[name] | {"minutes": 0.0} for name in ("enlarger", "finder")}
    config = work_beside(trained, tmp_path / "work") | untrained
    (work_folder(config) / "denoiser.pt").symlink_to(work_folder(trained) / "denoiser.pt")
    train_enlarger.train(config)
    train_finder.train(config)
    export.export(config, tmp_path / "pack")
    export.export_finder(config, tmp_path / "pack")
    export.export_decoder(config, tmp_path / "pack")
    export.export(config, tmp_path / "other", finder_of=tmp_path / "pack")
    e = config["enlarger"]
    for pack in (tmp_path / "pack", tmp_path / "other"):
        finder, enlarger = train_finder.build(config), Enlarger(e["channels"], e["blocks"])
        finder.load_state_dict(from_pack.read_finder(pack)[0])
        enlarger.load_state_dict(from_pack.read_enlarger(pack)[0])
        assert all((p == 1).all() for name, p in finder.named_parameters() if "norm" in name and "weight" in name)
        assert not torch.cat([enlarger.out.weight.flatten(), enlarger.out.bias]).any()


def test_a_pack_gets_quick_graphs_that_answer_alike(trained, tmp_path: Path, monkeypatch):
    monkeypatch.setattr("waldrand.packs.onnx_pack.has_eight_bit_units", lambda: True)
    folder = tmp_path / "pack"
    export.export(trained, folder)
    before = OnnxPack(folder)
    result = quantise.quantise(folder, steps=2, layouts=2)
    assert all(of["relative error of an answer"] < 0.1 for of in result.values())
    exact, quick = OnnxPack(folder, exact=True), OnnxPack(folder)
    assert quick.info.digest != before.info.digest
    asked = quantise.asked_of(OnnxPack(folder, exact=True), 1, 1)
    answers = {}
    for graph in QUICK:
        feeds = asked[graph][0]
        answers[graph] = [pack.graphs[graph].run(None, feeds)[0] for pack in (before, exact, quick)]
        a, b, c = answers[graph]
        assert (a == b).all()
        assert (b != c).any()
        assert np.abs(b - c).max() < 0.5 * b.std()
    # They need what not every processor has.
    monkeypatch.setattr("waldrand.packs.onnx_pack.has_eight_bit_units", lambda: False)
    plain = OnnxPack(folder)
    assert all((plain.graphs[graph].run(None, asked[graph][0])[0] == answers[graph][0]).all() for graph in QUICK)
    # Another enlarger leaves none of the one before.
    monkeypatch.setattr("waldrand.packs.onnx_pack.has_eight_bit_units", lambda: True)
    export.export_decoder(trained, folder)
    assert not list(folder.glob(f"{QUICK['decoder']}*"))
    graphs = OnnxPack(folder).graphs
    decoded, denoised = (graphs[graph].run(None, asked[graph][0])[0] for graph in ("decoder", "denoiser"))
    assert (decoded == answers["decoder"][0]).all()
    assert (denoised == answers["denoiser"][2]).all()


def test_a_decoder_with_channels_evened_out_draws_the_same_and_loses_less_in_eight_bits(monkeypatch):
    import onnxruntime

    pack = OnnxPack(exact=True)
    latents = [pack.encode(paint_scene(render.scene_rng(n), 256).pixels / np.float32(255)) for n in range(3)]
    asked = [{"latent": z[None], "painted": np.ones((1, 1, *z.shape[1:]), np.float32)} for z in latents]

    def drawn(model) -> np.ndarray:
        session = onnxruntime.InferenceSession(model.SerializeToString(), providers=["CPUExecutionProvider"])
        return np.stack([session.run(None, feeds)[0] for feeds in asked])

    whole = quantise.whole_graph(OWN_PACK, "decoder")
    exact, evened = drawn(whole), quantise.evened(whole, asked)
    assert len(evened.graph.node) > len(whole.graph.node)
    assert drawn(evened) == pytest.approx(exact, abs=1e-4)
    with_it = drawn(quantise.in_eight_bits(OWN_PACK, "decoder", asked))
    monkeypatch.setattr(quantise, "evened", lambda ready, asked: ready)
    without = drawn(quantise.in_eight_bits(OWN_PACK, "decoder", asked))
    assert 0 < np.square(with_it - exact).mean() < np.square(without - exact).mean()


def test_reworked_scenes_keep_their_truth(trained):
    scenes = rework.rework_all(trained)
    for source, target in (
        ("chunk-0000", "reworked-0"),
        ("close-0000", "reworked-1"),
        ("held-out-0", "unseen-reworked"),
        ("sharp-0", "small-0"),
    ):
        with np.load(scenes / f"{source}.npz") as a, np.load(scenes / f"{target}.npz") as b:
            n = len(b["pixels"])
            assert n == 2
            before = render.shrunk(a["pixels"][:n], 4) if source == "sharp-0" else a["pixels"][:n]
            assert b["pixels"].shape == before.shape
            assert (b["masks"] == a["masks"][:n]).all()
            assert (b["pixels"] != before).any()
            # Lightly: a picture stays nearer to what it was than to another.
            apart = [[np.abs(x.astype(float) - y).mean() for y in before] for x in b["pixels"]]
            assert np.argmin(apart, 1).tolist() == list(range(n))


def test_the_enlarger_is_given_reworked_scenes_beside_what_they_were(trained):
    scenes = rework.rework_all(trained)
    c = trained["enlarger"] | {"real_share": 0.0, "leaves_share": 0.0, "reworked_share": 1.0, "crop": 512, "batch": 3}
    sharp, small, painted, photographed = train_enlarger.Cuts(scenes, c, 1).next()
    assert painted.tolist() == [1, 1, 1]
    assert photographed.tolist() == [0, 0, 0]
    assert sharp.shape == (3, 3, 512, 512)
    assert small.shape == (3, 3, 128, 128)
    with np.load(scenes / "small-0.npz") as a, np.load(scenes / "small-1.npz") as b:
        known = [((x.astype(np.float32) / 127.5) - 1).transpose(2, 0, 1) for z in (a, b) for x in z["pixels"]]
    for s in small.numpy():
        assert any(np.allclose(s, k) or np.allclose(s[..., ::-1], k) for k in known)
    cuts = train_enlarger.Cuts(scenes, c | {"reworked_share": 0.0}, 1)
    assert len(cuts.unseen) == c["judged"]
    assert not {id(p) for p, _ in cuts.unseen} & {id(p) for p in cuts.scenes}
    true = cuts.next()
    assert true[2].tolist() == [0, 0, 0]
    assert true[1].numpy() == pytest.approx(true[0].reshape(3, 3, 128, 4, 128, 4).mean((3, 5)).numpy(), abs=1e-5)


def test_photographs_come_turned_in_all_eight_ways(trained):
    c = trained["enlarger"] | {"real_share": 1.0, "leaves_share": 0.0, "crop": 64, "batch": 60}
    cuts = train_enlarger.Cuts(work_folder(trained) / "scenes", c, 2)
    picture = np.random.default_rng(0).integers(0, 256, (64, 64, 3)).astype(np.uint8)
    cuts.real = [picture]
    sharp, small, painted, photographed = cuts.next()
    assert painted.sum() == 0
    assert photographed.all()
    assert small.numpy() == pytest.approx(sharp.reshape(60, 3, 16, 4, 16, 4).mean((3, 5)).numpy(), abs=1e-5)
    seen = {p.tobytes() for p in ((sharp.numpy() + 1) * 127.5).round().astype(np.uint8).transpose(0, 2, 3, 1)}
    ways = {np.rot90(side, k).tobytes() for side in (picture, picture[:, ::-1]) for k in range(4)}
    assert seen == ways


def test_photographs_of_installed_packages_are_brought_down_and_some_kept_unseen(tmp_path: Path):
    alone = real.photographs(tmp_path)
    assert real.missing(tmp_path) == list(real.OF_PACKAGES)
    assert real.unseen_photographs(tmp_path) == []
    package, names = next(iter(real.OF_PACKAGES.items()))
    assert not {name for of in real.OF_PACKAGES.values() for name in of} & set(real.UNSEEN)
    for i, name in enumerate((*names, real.UNSEEN[0])):
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        Image.new("RGB", (1300, 1100), (i, 200, 30)).save(tmp_path / name, quality=95)
    assert package not in real.missing(tmp_path)
    more = real.photographs(tmp_path)[len(alone) :]
    assert [min(p.shape[:2]) for p in more] == list(real.SIDES) * len(names)
    assert all(abs(p.shape[1] / p.shape[0] - 13 / 11) < 0.01 for p in more)
    (unseen,) = real.unseen_photographs(tmp_path)
    assert unseen.shape == (416, 496, 3)


def test_the_enlarger_is_judged_by_scenes_and_photographs_it_never_saw(trained):
    import torch

    rework.rework_all(trained)
    c = trained["enlarger"]
    cuts = train_enlarger.Cuts(work_folder(trained) / "scenes", c, 1)
    scale = trained["latent"]["shrink"]
    decoder = Decoder(train_denoiser.load_latent(trained), scale, Enlarger(c["channels"], c["blocks"]))
    cuts.unseen_real = []
    assert "photographs" not in cuts.judge(decoder)
    edge = np.full((64, 96, 3), 90, np.uint8)
    edge[:, 48:] = 200
    cuts.unseen_real = [edge]

    def of_photographs() -> float:
        told = cuts.judge(decoder)
        assert [part.split()[0] for part in told.split(", ")] == ["scenes", "reworked", "photographs"]
        return float(told.split("photographs ")[1].split()[0])

    before = of_photographs()
    # Bicubic of an edge between cells, as untrained enlargers draw it.
    assert before > 20
    torch.nn.init.normal_(decoder.enlarger.out.weight)
    assert of_photographs() < before - 3


def test_rare_kinds_weigh_more_in_the_finders_loss(trained):
    import torch

    shares = torch.tensor([0.2, 0.01, 0.0001, 0.0])
    weights = train_finder.weights_of(shares)
    assert (weights[1:] >= weights[:-1]).all()
    assert weights[1] == pytest.approx(1)
    truth = train_finder.load_truth(trained, train_denoiser.load_latent(trained), train_finder.UNSEEN)
    cells = truth.cells()
    assert cells.shape == (len(kinds()) + 1,)
    assert cells.sum() == pytest.approx(1, abs=0.25)
    assert {kinds()[i] for i in range(len(kinds())) if cells[i] > 0} <= {
        p["kind"] for g in truth.scenes.groups for c in g.captions for p in c["parts"]
    }


def test_close_views_and_soft_pictures_are_among_what_the_finder_learns_from(trained):
    latent = train_denoiser.load_latent(trained)
    alone = train_finder.load_truth(trained, latent, train_finder.SCENES)
    both = train_finder.load_truth(trained, latent, train_finder.SCENES, train_finder.CLOSE)
    assert len(both.scenes) == len(alone.scenes) + trained["render"]["close"]
    edges = {}
    for blurred in (0.0, 1.0):
        truth = train_finder.load_truth(trained, latent, train_finder.CLOSE, blurred=blurred)
        pictures = truth.batch(np.random.default_rng(2), 6)[0]
        edges[blurred] = float((pictures[..., 1:] - pictures[..., :-1]).abs().mean())
        assert pictures.abs().max() <= 1
    assert edges[1.0] < 0.9 * edges[0.0]


def test_few_cells_of_a_kind_count_more_in_the_finders_loss():
    import torch

    there = torch.zeros(2, 3, 32, 32)
    there[0, 0, :20, :20] = 1
    there[0, 1, :5, :5] = 1
    there[1, 2, 0, 0] = 1
    weights = train_finder.small_ones_more(there, 2.5)
    assert weights.shape == (2, 4, 1, 1)
    assert weights[0, :, 0, 0].tolist() == [1, 2, 2.5, 1]
    assert weights[1, 2:, 0, 0].tolist() == [2.5, 1]
    assert (train_finder.small_ones_more(there, 1.0) == 1).all()


def test_a_better_enlarger_goes_into_a_pack_that_is_there(trained, tmp_path: Path):
    config = trained
    export.export(config, tmp_path / "pack")
    before = OnnxPack(tmp_path / "pack").info.digest
    result = export.export_decoder(config, tmp_path / "pack")
    assert result["difference"] < 1e-4
    assert OnnxPack(tmp_path / "pack").info.digest == before


def test_an_enlarger_goes_on_from_a_pack(trained, tmp_path: Path):
    import torch

    export.export(trained, tmp_path / "pack")
    config = work_beside(trained, tmp_path / "work") | {"enlarger": trained["enlarger"] | {"minutes": 0.0}}
    state = torch.load(train_enlarger.train(config, tmp_path / "pack"), weights_only=True)
    weights, minutes = from_pack.read_enlarger(tmp_path / "pack")
    assert state["before"] == minutes > 0
    assert all(torch.equal(state["net"][name], values) for name, values in weights.items())


def test_representations_are_compared_by_what_is_painted_in_them(trained, tmp_path: Path):
    from latents import compare

    table = compare(trained, train_finder.build(trained), 0.05, 2, tmp_path / "side-by-side.png")
    assert set(table) == {"true scenes", "linear", "learned"}
    assert all(np.isfinite(distance) and distance > -1e-3 for _, distance in table.values())
    # Thirty-two of forty-eight components leave little out; an autoencoder of two seconds leaves nearly all.
    assert table["linear"][0] > 30 > table["learned"][0]
    with Image.open(tmp_path / "side-by-side.png") as image:
        assert image.size == (2 * 128, 3 * 128)


def test_every_kind_stands_alone_on_the_sheet_where_it_belongs():
    from kinds import BELONGS, alone

    known = set(vocabulary(kinds()))
    assert {place for t in THINGS.values() for place in t.places[:1]} <= set(BELONGS)
    for thing in THINGS.values():
        for i in range(3):
            (words, left, top, right, bottom) = alone(thing, i).things[0]
            assert words == thing.name
            assert 0 <= left < right <= 100
            assert 0 <= top < bottom <= 100
            assert (right - left) * (bottom - top) > 300
    assert {w for scene, _ in BELONGS.values() for phrase in scene.split(", ") for w in phrase.split()} <= known


def test_a_tint_is_taken_over_and_errors_are_not():
    sharp = np.random.default_rng(2).uniform(40, 200, (64, 64, 3))
    tint = np.array([10.0, -5.0, 0.0])
    even = np.zeros((16, 16, 3)) + tint
    assert train_enlarger.tinted(sharp, even) == pytest.approx(sharp + tint)
    blocks = np.where(np.indices((16, 16)).sum(0) % 2, 20.0, -20.0)[..., None].repeat(3, -1)
    assert np.abs(train_enlarger.tinted(sharp, blocks) - sharp)[16:-16, 16:-16].max() < 1
    assert train_enlarger.tinted(sharp, even * 100).max() == 255


# --- drawings, depth, looks, add-ons


def test_scenes_are_rendered_with_their_drawing_and_depth(config):
    for group in train_denoiser.make_sampler(config, 0).scenes.groups:
        assert group.guides is not None
        assert group.guides.shape == (*group.pixels.shape[:3], 2)
        lines, depth = group.guides[..., 0], group.guides[..., 1]
        assert lines.max() > 128
        assert 0.001 < (lines > 128).mean() < 0.5
        assert np.ptp(depth) > 40


def test_a_scene_comes_nearer_downwards_and_the_sky_is_farthest():
    for number in range(12):
        scene = paint_scene(render.scene_rng(number), 128, fine=4)
        depth = scene.depth()
        assert depth.shape == scene.parts[0].mask.shape
        assert 0 <= depth.min() <= depth.max() <= 1
        if any(p.kind == "meadow" for p in scene.parts):
            assert depth[-4:].mean() > depth[:8].mean() + 0.3


def test_the_validation_is_told_no_guides_and_training_is(config):
    held = train_denoiser.make_sampler(config, 16, held_out=True).batch(np.random.default_rng(0), 16)
    assert not held.given.any()
    assert not held.look_kind.any()
    taught = train_denoiser.make_sampler(config, 16).batch(np.random.default_rng(0), 96)
    assert 0.4 < taught.given[:, 0].mean() < 0.9
    assert 0.05 < taught.given[:, 1].mean() < 0.5
    assert 0.1 < (taught.look_kind > 0).mean() < 0.6
    for i in range(96):
        assert taught.given[i, 0] or not taught.lines[i].any()
        assert taught.given[i, 1] or not taught.depth[i].any()


@given(seed=st.integers(0, 10_000))
@settings(max_examples=40, deadline=None)
def test_a_clumsy_hand_draws_within_a_few_pixels_of_what_it_means(seed):
    rng = np.random.default_rng(seed)
    lines = np.zeros((64, 64), np.float32)
    lines[20, 10:50] = lines[20:45, 30] = 1
    made = clumsy.drawn(lines, rng)
    assert made.shape == lines.shape
    assert 0 <= made.min() <= made.max() <= 1
    far = ndimage.distance_transform_edt(lines == 0) > 5
    assert not (made[far] > 0.05).any()
    deep = clumsy.shaded(np.linspace(0, 1, 64)[:, None] * np.ones((1, 64)), rng)
    assert 0 <= deep.min() < deep.max() <= 1
    assert deep[-8:].mean() > deep[:8].mean()


def test_guides_change_nothing_at_first_and_are_heeded_once_learned(trained):
    import torch

    net = train_denoiser.build(trained).eval()
    batch = train_denoiser.make_sampler(trained, 16).batch(np.random.default_rng(2), 3)
    x = torch.randn(3, trained["latent"]["channels"], 16, 16)
    told = [torch.from_numpy(v) for v in (batch.ids, batch.kind, batch.outline, batch.weight)]
    inputs = (x, torch.zeros_like(x), torch.ones(3, 1, 16, 16), torch.tensor([0.2, 0.5, 0.9]), *told)
    guides = torch.ones(3, 1, 64, 64), torch.ones(3, 1, 64, 64), torch.ones(3, 2)
    with torch.no_grad():
        torch.nn.init.normal_(net.denoiser.out.weight, std=0.1)
        assert torch.equal(net(*inputs), net(*inputs, guides))
        torch.nn.init.normal_(net.denoiser.guide.into.weight, std=0.1)
        assert not torch.allclose(net(*inputs), net(*inputs, guides))


def test_a_pack_with_guides_is_told_drawings_depth_and_looks(trained, tmp_path: Path):
    from waldrand.core.packs import Guides, Rows
    from waldrand.core.told.look import length

    train_drawn.train(trained)
    found = export.export(trained, tmp_path / "pack")["differences"]
    assert max(found.values()) < 1e-3
    pack = OnnxPack(tmp_path / "pack", exact=True)
    assert {"lines", "depth", "looks"} <= pack.info.capabilities
    c, rng = pack.info.channels, np.random.default_rng(0)
    x = rng.normal(size=(c, 8, 8)).astype(np.float32)
    rows = Rows(np.ones((2, 8), np.int64), np.ones(2, np.float32), np.zeros((2, 8, 8), np.float32), np.ones(2, np.float32))
    looks = np.zeros((2, length(c)), np.float32)
    looks[1] = rng.normal(size=length(c))
    plain, *others = (
        pack.answer(x, 0 * x, np.ones((8, 8), np.float32), 0.5, [r], g)[0]
        for r, g in (
            (rows, None),
            (rows, Guides(lines=np.ones((32, 32), np.float32))),
            (rows, Guides(depth=np.ones((32, 32), np.float32))),
            (Rows(rows.ids, rows.kind, rows.outline, rows.weight, looks), None),
        )
    )
    assert all(np.abs(other - plain).max() > 0 for other in others)
    drawing = np.zeros((128, 128), np.float32)
    drawing[64] = 1
    assert pack.decode(x, None, drawing).shape == pack.decode(x).shape == (128, 128, 3)
    assert pack.figures is not None
    assert pack.figures.named(["fox"])[0].lines is not None
    went_on = from_pack.read_weights(tmp_path / "pack")[0]
    assert any(name.startswith("look.") for name in went_on)


def test_a_better_drawn_enlarger_goes_into_a_pack_alone_and_is_gone_on_from(trained, tmp_path: Path):
    train_drawn.train(trained)
    pack = tmp_path / "pack"
    export.export(trained, pack)
    before, minutes = from_pack.read_drawn(pack)
    assert minutes > 0
    told = {name: (pack / name).read_bytes() for name in ("denoiser.onnx", "decoder.onnx")}
    longer = {**trained, "drawn": {**trained["drawn"], "minutes": 2 * trained["drawn"]["minutes"]}, "work": str(tmp_path / "other")}
    shutil.copytree(work_folder(trained), tmp_path / "other")
    (tmp_path / "other" / "drawn.pt").unlink()
    train_drawn.train(longer, pack)
    made = export.export_drawn(longer, pack)
    assert made["difference"] < 1e-3
    after, more = from_pack.read_drawn(pack)
    assert more > minutes
    assert any((before[name] != after[name]).any() for name in before)
    assert {name: (pack / name).read_bytes() for name in told} == told
    assert OnnxPack(pack).info.version == made["version"]


def test_a_light_enlarger_learns_from_the_one_that_is_told_drawings_and_goes_into_a_pack(trained, tmp_path: Path):
    with pytest.raises(ValueError, match="nothing to learn from"):
        train_light.train({**trained, "work": str(tmp_path / "empty")})
    train_drawn.train(trained)
    train_light.train(trained)
    pack = tmp_path / "pack"
    export.export(trained, pack)
    z, drawing = np.random.default_rng(0).normal(size=(32, 8, 12)).astype(np.float32), np.zeros((128, 192), np.float32)
    drawing[64] = 1
    soon = OnnxPack(pack).decode(z, np.ones((8, 12), np.float32), drawing, light=True)
    assert np.abs(soon - OnnxPack(pack).decode(z, np.ones((8, 12), np.float32), drawing)).max() > 0
    before, minutes = from_pack.read_light(pack)
    longer = {**trained, "light": {**trained["light"], "minutes": 5 * trained["light"]["minutes"]}}
    train_light.train(longer)
    made = export.export_light(longer, pack)
    assert made["difference"] < 1e-3
    after, more = from_pack.read_light(pack)
    assert more > minutes
    assert any((before[name] != after[name]).any() for name in before)
    # Without a drawing too, and of what no denoiser painted.
    z = OnnxPack(pack).encode(np.full((128, 192, 3), 0.4, np.float32))
    kept = OnnxPack(pack).decode(z, None, None, light=True)
    assert kept.shape == (128, 192, 3)
    assert kept.mean() == pytest.approx(0.4, abs=0.1)
    assert OnnxPack(pack).info.version == made["version"]


def test_shapes_get_the_colours_that_were_painted_evenly_and_keep_their_edges():
    from training.render import averaged

    sharp = np.full((256, 256, 3), 200, np.float32)
    sharp[60:190, 70:170] = (40, 90, 60)
    rng = np.random.default_rng(1)
    became = averaged(sharp, 4)
    became = np.where(became[..., :1] < 100, became + np.array([30, -20, 50]), became - 25) + rng.normal(0, 4, (64, 64, 1))
    made = train_drawn.recoloured(sharp, became.astype(np.float32))
    inside, outside = made[90:160, 100:140], made[:40]
    assert np.abs(inside.reshape(-1, 3).mean(0) - (70, 70, 110)).max() < 6
    assert np.abs(outside.reshape(-1, 3).mean(0) - 175).max() < 4
    # The unevenness of what was painted is gone, and the step is as steep as it was.
    assert max(inside.std((0, 1)).max(), outside.std((0, 1)).max()) < 2
    assert np.abs(made[120, 69] - made[120, 70]).min() > 0.8 * np.abs(np.array([175, 175, 175]) - (70, 70, 110)).min()


def test_an_enlarger_that_is_told_drawings_begins_as_the_one_that_is_not():
    import torch

    from training.networks import DrawnEnlarger

    plain = Enlarger(16, 4).eval()
    x, painted, lines = torch.rand(1, 3, 16, 16) * 2 - 1, torch.ones(1, 1, 16, 16), torch.rand(1, 1, 64, 64)
    with torch.no_grad():
        torch.nn.init.normal_(plain.out.weight, std=0.1)
        assert torch.allclose(DrawnEnlarger(plain).eval()(x, painted, lines), plain(x, painted), atol=1e-5)


def test_an_add_on_is_trained_from_pictures_and_merged(trained, tmp_path: Path, monkeypatch):
    from waldrand.packs.add_ons import Merged, read_add_on, write_add_on

    export.export(trained, tmp_path / "pack")
    monkeypatch.setattr(add_on, "load_config", lambda: trained)
    pictures = [add_on.Shown(np.full((200, 160, 3), (200, 40, 30), np.uint8), None, (("fox", np.eye(8)), ("dawn", None)))]
    made = add_on.train(pictures, "Rust Day", "sunset", tmp_path / "pack", 0.05, 2, False, "rust")
    write_add_on(tmp_path / "rust.safetensors", made)
    one = read_add_on(tmp_path / "rust.safetensors")
    assert (one.name, one.words, one.like) == ("rust", "rust day", "sunset")
    pack = OnnxPack(tmp_path / "pack", exact=True)
    x = np.random.default_rng(0).normal(size=(pack.info.channels, 8, 8)).astype(np.float32)

    def answer() -> np.ndarray:
        from waldrand.core.told.voices import Line, to_rows

        rows = to_rows([Line("scene", "rust day", 1.0, None)], pack, (8, 8))
        return pack.answer(x, 0 * x, np.ones((8, 8), np.float32), 0.5, [rows])[0]

    before = answer()
    pack.use_add_ons([Merged(one, 1.0)])
    assert np.abs(answer() - before).max() > 0
    for wrong in ({"pictures": []}, {"like": "blorp"}):
        told = {"pictures": pictures, "words": "x", "like": "sunset"} | wrong
        with pytest.raises(ValueError, match=r"one picture|does not know"):
            add_on.train(**told, pack=tmp_path / "pack", minutes=0.01, rank=2, thing=False, name="x")
