"""Our own pack: what it says, what it paints, and how damage is told."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldrand.core.packs import ELEMENT, SCENE, Rows
from waldrand.packs.onnx_pack import OnnxPack, has_eight_bit_units, own_pack_folder


def words_of(pack: OnnxPack, phrase: str) -> str:
    return " ".join(pack.words.words[i] for i in pack.read(phrase)[0])


@pytest.mark.parametrize(
    ("written", "meant"),
    [
        ("red fox facing left", "red fox facing left"),
        ("a white house with lit windows", "white cottage lit windows"),
        ("Hot-air balloon", "balloon"),
        ("the full moon", "moon"),
        ("crescent moon", "crescent moon"),
        ("night", "starry night"),
        ("starry night", "starry night"),
        ("rabbits", "hare"),
        ("sailboat", "sailing boat"),
        ("snow", "snow field"),
        ("snow field", "snow field"),
        ("clear day", "clear day"),
        ("gray rock", "grey rock"),
    ],
)
def test_words_and_synonyms_are_read(own, written, meant):
    assert words_of(own, written) == meant
    assert own.read(written)[1] == []


def test_unknown_words_are_named_with_nearest(own):
    _, unknown = own.read("red foxx on a skateboard")
    assert [u.word for u in unknown] == ["foxx", "skateboard"]
    assert "fox" in unknown[0].nearest
    assert words_of(own, "red foxx") == "red"


@given(st.text(max_size=60))
def test_any_text_is_read_to_known_ids(text):
    ids, unknown = OWN.read(text)
    assert all(0 < i < len(OWN.words.words) for i in ids)
    assert all(u.word for u in unknown)


OWN = OnnxPack()


def test_every_listed_phrase_is_known(own):
    for phrases in own.words.groups.values():
        for phrase in phrases:
            ids, unknown = own.read(phrase)
            assert ids
            assert not unknown
            assert words_of(own, phrase) == phrase


def test_down_and_up_again_resembles_the_picture(own):
    yy, xx = np.mgrid[:192, :256] / 256
    picture = np.stack([xx, yy, (xx + yy) / 2], -1).astype(np.float32)
    z = own.encode(picture)
    assert z.shape == (own.info.channels, 12, 16)
    assert np.abs(own.decode(z) - picture).mean() < 0.02
    assert own.preview(z).shape == (48, 64, 3)


def rows(n: int, h: int, w: int) -> Rows:
    ids = np.zeros((n, 8), np.int64)
    ids[:, 0] = 1 + np.arange(n)
    kind = np.where(np.arange(n) == 0, SCENE, ELEMENT).astype(np.float32)
    return Rows(ids, kind, np.ones((n, h, w), np.float32), np.ones(n, np.float32))


def test_free_sizes_and_no_words_at_all(own):
    nothing = Rows(np.zeros((1, 8), np.int64), np.zeros(1, np.float32), np.zeros((1, 16, 20), np.float32), np.zeros(1, np.float32))
    x = np.random.default_rng(0).standard_normal((own.info.channels, 16, 20)).astype(np.float32)
    told, free = own.answer(x, x * 0, np.ones((16, 20), np.float32), 0.5, [rows(5, 16, 20), nothing])
    assert told.shape == free.shape == x.shape
    assert np.isfinite(told).all()
    assert np.isfinite(free).all()
    assert np.abs(told - free).max() > 1e-3


def test_answers_repeat_exactly_and_do_not_depend_on_padding(own):
    x = np.random.default_rng(0).standard_normal((own.info.channels, 16, 16)).astype(np.float32)
    hole = np.ones((16, 16), np.float32)
    a = own.answer(x, x * 0, hole, 0.7, [rows(3, 16, 16)])[0]
    assert (a == own.answer(x, x * 0, hole, 0.7, [rows(3, 16, 16)])[0]).all()
    padded = own.answer(x, x * 0, hole, 0.7, [rows(3, 16, 16), rows(6, 16, 16)])[0]
    assert np.abs(a - padded).max() < 1e-3


@pytest.mark.parametrize("threads", [1, 2, 3])
def test_several_questions_at_once_are_answered_in_their_order(threads):
    pack = OnnxPack(threads=threads, exact=True)
    x = np.random.default_rng(0).standard_normal((pack.info.channels, 16, 16)).astype(np.float32)
    told = [replace(rows(3, 16, 16), ids=rows(3, 16, 16).ids + n) for n in range(4)]
    together = pack.answer(x, x * 0, np.ones((16, 16), np.float32), 0.7, told)
    for one, of in zip(told, together, strict=True):
        alone = pack.answer(x, x * 0, np.ones((16, 16), np.float32), 0.7, [one])[0]
        assert np.abs(alone - of).max() < 1e-3
    assert np.abs(together[0] - together[1]).max() > 1e-3


@pytest.mark.parametrize(
    ("flags", "has"),
    [
        ("flags : fpu sse avx512f avx512_vnni", True),
        ("flags : avx2 avx_vnni", True),
        ("Features : fp asimd asimddp", True),
        ("flags : avx512_vn", False),
    ],
)
def test_units_for_eight_bits_are_read_off_the_systems_description(tmp_path, flags, has):
    (tmp_path / "cpuinfo").write_text(f"processor : 0\n{flags}\n\nprocessor : 1\n")
    assert has_eight_bit_units(tmp_path / "cpuinfo") is has
    assert not has_eight_bit_units(tmp_path / "none")


@pytest.fixture
def copy(tmp_path) -> Path:
    return Path(shutil.copytree(own_pack_folder(), tmp_path / "pack"))


def edit(folder: Path, old: str, new: str) -> None:
    path = folder / "pack.toml"
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))


@pytest.mark.parametrize(
    ("harm", "says"),
    [
        (lambda p: (p / "pack.toml").unlink(), "no pack"),
        (lambda p: (p / "pack.toml").write_text("format ="), "cannot be read"),
        (lambda p: edit(p, "format = 1", "format = 7"), "format 7"),
        (lambda p: edit(p, 'prediction = "flow"', 'prediction = "guess"'), "guess"),
        (lambda p: edit(p, "channels = ", "chanels = "), "not complete"),
        (lambda p: edit(p, '"decoder.onnx"', '"../decoder.onnx"'), "outside"),
        (lambda p: (p / "text-00.safetensors").write_bytes(b"no"), "damaged"),
        (lambda p: (p / "denoiser.onnx").unlink(), "cannot be read"),
        (lambda p: edit(p, 'vocabulary = "words.json"', 'vocabulary = "other.json"'), "does not list"),
        (lambda p: edit(p, "multiple = 64", "multiple = 60"), "sizes"),
        (lambda p: edit(p, "0.85,", "1.85,"), "guidance"),
        (lambda p: edit(p, "0.85,", ""), "guidance"),
        (lambda p: edit(p, "lead_kept = 0.08", "lead_kept = 8.0"), "guidance is kept"),
        (lambda p: edit(p, "told = 0.95", "told = 9.5"), "share of the noise"),
        (lambda p: edit(p, "steps = 3", "steps = 0"), "few steps"),
        (lambda p: edit(p, "    0.0,\n    0.5,", "    0.0,\n    1.5,"), "noise levels"),
        (lambda p: edit(p, "ahead = 1.0", "ahead = 2.5"), "few steps"),
        (lambda p: edit(p, "placed_area = 409600", "placed_area = 0"), "sizes that cannot be"),
        (lambda p: edit(p, "streaks = 0.035", "streaks = 35"), "paper for “gouache grain”"),
        (lambda p: edit(p, "streaks = 0.035", "bands = 0.035"), "not complete"),
        (lambda p: edit(p, '"facing left",\n        ', ""), "mirror"),
        (lambda p: edit(p, '        "facing right",\n', '        "facing left",\n'), "mirror"),
    ],
)
def test_damaged_packs_are_told(copy, harm, says):
    harm(copy)
    with pytest.raises(ValueError, match=says):
        OnnxPack(copy)


def test_weights_stay_in_small_files(own):
    files = list(own_pack_folder().iterdir())
    assert all(f.stat().st_size < 4_000_000 for f in files)
    assert sum(f.stat().st_size for f in files) < 80_000_000
