"""Files that somebody made to do harm, or that a fault mangled: a sentence each, and nothing else."""

from __future__ import annotations

import copy
import io
import json
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from waldrand.core.fields import Field, fields_of
from waldrand.core.passes.recipe import last_recipe, recipe_frame, recipe_words, request_from_json, sheet_before
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.core.values.as_json import element_from_json, element_to_json, scene_from_json
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.desk.draft import Draft
from waldrand.files import openraster
from waldrand.files.layout import read_layout
from waldrand.files.openraster import OURS, open_sheet
from waldrand.files.pictures import read_recipe

BEFORE = Path(__file__).parent / "data" / "before"
SHEET = json.loads(zipfile.ZipFile(BEFORE / "sheet.ora").read(OURS))
RECIPE = read_recipe(BEFORE / "inpaint.png")
PARTS = {name: zipfile.ZipFile(BEFORE / "sheet.ora").read(name) for name in zipfile.ZipFile(BEFORE / "sheet.ora").namelist()}

#: Values that are out of place nearly anywhere.
odd = st.one_of(
    st.none(),
    st.booleans(),
    st.sampled_from([-1, 0, 1, 2**31, 2**63, -(2**63), 10**30, 10**400, 1e308, -1e308, 1e-308, float("nan"), float("inf"), -float("inf")]),
    st.integers(),
    st.floats(),
    st.text(max_size=6),
    st.sampled_from(["box", "mask", "freehand", "star", "compose", "dream", "../../etc/passwd", "data/layer-001.png", "\ud800"]),
    st.lists(st.integers(-5, 5), max_size=5),
    st.dictionaries(st.text(max_size=4), st.integers(), max_size=3),
)


def places(value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a JSON value."""
    out = [at] if at else []
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, inner in items:
        out += places(inner, (*at, key))
    return out


def broken(value: Any, at: tuple[Any, ...], by: Any, how: str) -> Any:
    """A JSON value with one place of it exchanged, left out, or said twice."""
    value = copy.deepcopy(value)
    parent = value
    for key in at[:-1]:
        parent = parent[key]
    if how == "exchange":
        parent[at[-1]] = by
    elif how == "leave out":
        del parent[at[-1]]
    elif isinstance(parent, list):
        parent.append(copy.deepcopy(parent[at[-1]]))
    else:
        parent[f"{at[-1]} again"] = by
    return value


hows = st.sampled_from(["exchange", "exchange", "leave out", "twice"])


def sheet_file(path: Path, ours: Any) -> Path:
    with zipfile.ZipFile(path, "w") as z:
        for name, data in PARTS.items():
            # Surrogates that stand alone can be written in JSON, though in no text.
            z.writestr(name, json.dumps(ours) if name == OURS else data)
    return path


def refused_or_read(act) -> bool:
    """Whether something is read; where not it is refused in a sentence, and nothing else happens."""
    said = ""
    try:
        act()
    except Refused as error:
        said = str(error)
    assert not said or said[:1].isupper() or said[:1].isdigit() or said[:1] in "“/["
    assert not said or said.rstrip()[-1] in ".?)"
    return not said


@settings(max_examples=400, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.sampled_from(places(SHEET)), odd, hows)
def test_a_sheet_with_one_wrong_value_is_opened_or_refused(tmp_path, at, by, how):
    path = sheet_file(tmp_path / "x.ora", broken(SHEET, at, by, how))

    def act():
        opened = open_sheet(path)
        opened.sheet.flatten()
        Draft.from_json(opened.settings)

    refused_or_read(act)


@settings(max_examples=100, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.recursive(odd, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from([*SHEET]), inner, max_size=4)))
def test_a_sheet_of_anything_at_all_is_refused(tmp_path, ours):
    assert not refused_or_read(lambda: open_sheet(sheet_file(tmp_path / "x.ora", ours)))


@settings(max_examples=300)
@given(st.sampled_from(places(RECIPE)), odd, hows)
def test_a_recipe_with_one_wrong_value_is_read_or_refused(at, by, how):
    recipe = broken(RECIPE, at, by, how)

    def act():
        last = last_recipe(recipe)
        recipe_words(recipe)
        if last is not None:
            sheet_before(last, 256, 256, ())
            request_from_json(last)
            recipe_frame(last)

    refused_or_read(act)


@settings(max_examples=60, deadline=None)
@given(st.sampled_from([p for p in places(RECIPE) if "settings" not in p]), odd, hows)
def test_a_recipe_with_one_wrong_value_is_repeated_or_refused(closed, at, by, how):
    refused_or_read(lambda: repeat(broken(RECIPE, at, by, how), closed))


def values_of(field: Field) -> st.SearchStrategy:
    """Values that a field may have, and such as it may not."""
    right = {
        "whole": st.integers(-3, 300),
        "number": st.floats(-1, 30),
        "flag": st.booleans(),
        "words": st.text(max_size=8),
        "choice": st.sampled_from([*dict(field.choices), "none such"]),
        "spans": st.lists(st.tuples(st.integers(0, 4), st.integers(0, 8), st.floats(0, 3)).map(list), max_size=2),
        "pairs": st.lists(st.tuples(st.integers(0, 4), st.none() | st.integers(0, 8)).map(list), max_size=2),
    }[field.read]
    return right | odd


def table_of(cls: type) -> st.SearchStrategy:
    return st.fixed_dictionaries({}, optional={name: values_of(field) for name, field in fields_of(cls).items()})


ELEMENT = element_to_json(Element(1, "a", Outline("box", (0, 0, 9, 9))))


@settings(max_examples=300)
@given(table_of(Element), table_of(SceneWords), table_of(PassSettings))
def test_whatever_is_said_under_the_names_of_fields_is_taken_or_refused(element, scene, asked):
    refused_or_read(lambda: element_from_json(ELEMENT | element))
    refused_or_read(lambda: scene_from_json(scene))
    refused_or_read(lambda: request_from_json(last_recipe(RECIPE) | {"settings": asked}))
    refused_or_read(lambda: Draft.from_json(Draft().to_json() | {"pass": asked}))


@settings(max_examples=100, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from(["sheet", "scene", "pass", "element"]),
    st.sampled_from(["width", "words", "weight", "emphasis", "steps", "seed", "box", "points", "depth", "hold", "start", "mask"]),
    st.sampled_from(
        ["inf", "nan", "-1", "1e400", "9223372036854775807", "true", '"x"', "[]", "[[1]]", "{a = 1}", "1979-05-27", "[0, 0, 1, nan]"]
    ),
)
def test_a_layout_with_one_wrong_value_is_read_or_refused(tmp_path, table, name, value):
    head = "[[element]]\n" if table == "element" else f"[{table}]\n"
    box = "" if table != "element" or name in ("box", "points", "mask") else "box = [0, 0, 1, 1]\n"
    (tmp_path / "l.toml").write_text(f"format = 1\n{head}{box}{name} = {value}\n")
    refused_or_read(lambda: read_layout(tmp_path / "l.toml"))


@pytest.mark.parametrize("shape", ["star", 3, None, ["box"], {}])
def test_an_unknown_shape_is_named(tmp_path, shape):
    ours = copy.deepcopy(SHEET)
    ours["elements"][0]["outline"]["shape"] = shape
    with pytest.raises(Refused, match="no outline of the shape"):
        open_sheet(sheet_file(tmp_path / "x.ora", ours))


def test_an_unknown_kind_of_pass_is_named(tmp_path, window):
    ours = copy.deepcopy(SHEET)
    ours["settings"]["kind"] = "dream"
    window.dialogs.path = sheet_file(tmp_path / "x.ora", ours)
    window.opening.open_any()
    assert "no kind of pass called “dream”" in window.dialogs.told[0]
    # A take of such a pass is left out, and the rest of the sheet is there.
    ours = copy.deepcopy(SHEET)
    ours["takes"][0]["recipe"]["kind"] = "dream"
    window.dialogs.path = sheet_file(tmp_path / "y.ora", ours)
    window.opening.open_any()
    assert len(window.tray.takes) == 2
    assert "1 take was left out" in window.passes.status.text()


def test_numbers_of_any_length_are_refused(tmp_path):
    text = json.dumps(SHEET).replace('"width": 256', '"width": ' + "9" * 5000, 1)
    with zipfile.ZipFile(tmp_path / "x.ora", "w") as z:
        for name, data in PARTS.items():
            z.writestr(name, text if name == OURS else data)
    with pytest.raises(Refused, match="cannot be read"):
        open_sheet(tmp_path / "x.ora")


def test_one_empty_picture_referred_to_two_hundred_times_takes_no_memory(tmp_path, monkeypatch):
    """Ten thousand pixels a side, 400 MB each once they are unpacked, and hardly a byte in the file."""
    out = io.BytesIO()
    Image.new("1", (10_000, 10_000)).save(out, "PNG")
    layers = "".join('<layer name="a" src="data/a.png"/>' for _ in range(200))
    with zipfile.ZipFile(tmp_path / "x.ora", "w") as z:
        z.writestr("mimetype", "image/openraster")
        z.writestr("stack.xml", f'<image w="64" h="64"><stack>{layers}</stack></image>')
        z.writestr("data/a.png", out.getvalue())
    read, real = [], openraster.read_picture

    def counted(*args):
        read.append(args)
        return type(real(io.BytesIO(PARTS["data/layer-001.png"]), "x"))(np.zeros((1, 1, 4), np.uint8))

    monkeypatch.setattr(openraster, "read_picture", counted)
    with pytest.raises(Refused, match="million pixels altogether"):
        open_sheet(tmp_path / "x.ora")
    assert len(read) == openraster.MOST_PIXELS // 10_000**2


def test_elements_on_the_clipboard_may_be_anybodys(window):
    from PyQt6.QtCore import QMimeData
    from PyQt6.QtGui import QGuiApplication

    from waldrand.desk.jobs.arranging import ELEMENTS_MIME

    for text in (b"{", b"3", b"[3]", b'[{"key": 1}]', json.dumps([ELEMENT | {"weight": 1e9}]).encode(), b"[" * 5000):
        data = QMimeData()
        data.setData(ELEMENTS_MIME, text)
        QGuiApplication.clipboard().setMimeData(data)
        window.arranging.paste()
        assert "damaged" in window.passes.status.text()
        assert window.document.sheet.elements == ()


def test_layouts_are_not_written_over_other_pictures(tmp_path, capsys, window, placed):
    from dataclasses import replace

    from waldrand.cli import main
    from waldrand.files.pictures import write_png

    colours = np.zeros((64, 64, 3), np.uint8)
    colours[:, 32:] = (200, 30, 30)
    write_png(tmp_path / "map.png", colours)
    precious = tmp_path / "l-1.png"
    precious.write_bytes(b"precious")
    command = ["from-colours", str(tmp_path / "map.png"), "--out", str(tmp_path / "l.toml")]
    assert main(command) == 2
    assert "l-1.png exists already" in capsys.readouterr().err
    assert precious.read_bytes() == b"precious"
    assert not (tmp_path / "l.toml").exists()
    assert main([*command, "--force"]) == 0
    assert precious.read_bytes() != b"precious"
    # The same from the window, where it is asked for.
    precious.write_bytes(b"precious")
    painted = replace(placed.elements[0], outline=Outline("mask", (0, 0, 9, 9), mask=np.full((9, 9), 255, np.uint8)))
    window.document.open(replace(placed, elements=(painted,)))
    window.dialogs.path = tmp_path / "l.toml"
    for agrees in (False, True):
        window.dialogs.agrees = agrees
        window.saving.export_layout()
        assert (precious.read_bytes() == b"precious") != agrees
