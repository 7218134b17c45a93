"""The formats that can be opened, by the endings of their names. Another one is an entry here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..core.passes.recipe import last_recipe
from ..core.refused import Refused
from ..core.values.layers import PictureLayer
from ..core.values.sheet import Sheet
from ..core.worded import worded
from .layout import read_layout
from .opened import Opened
from .openraster import open_sheet
from .pictures import read_picture, read_recipe

#: What a file is that becomes a layer where it is dropped.
PICTURE = "picture"
HINT = "This picture holds a recipe: Sheet, Start from a picture's recipe brings back words, elements and settings."


@dataclass(frozen=True)
class Format:
    """endings: with their dots, small; read: opens a file, with scale_masks whether masks of another size are fitted; saved: whether a
    sheet is saved to it again."""

    name: str
    endings: tuple[str, ...]
    read: Callable[[Path, bool], Opened]
    saved: bool = False


def _sheet(path: Path, scale_masks: bool) -> Opened:
    return open_sheet(path)


def _layout(path: Path, scale_masks: bool) -> Opened:
    layout = read_layout(path, scale_masks)
    return Opened(layout.sheet, asked=layout.settings, own_frame=layout.own_frame, notes=layout.notes)


def _picture(path: Path, scale_masks: bool) -> Opened:
    picture, recipe = read_picture(path), read_recipe(path)
    h, w = picture.pixels.shape[:2]
    sheet = Sheet(w, h, (PictureLayer(1, path.stem, picture.pixels),))
    return Opened(sheet, notes=picture.notes, picture=True, hint="" if last_recipe(recipe) is None else HINT)


FORMATS: list[Format] = [
    Format("sheet", (".ora",), _sheet, saved=True),
    Format("layout", (".toml",), _layout),
    Format(PICTURE, (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff"), _picture),
]


def format_of(path: Path) -> Format | None:
    """The format that a file's name says it has."""
    return next((f for f in FORMATS if path.suffix.lower() in f.endings), None)


def open_file(path: Path, scale_masks: bool = False) -> Opened:
    """Opens whatever can be opened; a file of no known ending is taken for a picture.

    Raises:
        Refused: it cannot be opened.
    """
    known = format_of(path) or next(f for f in FORMATS if f.name == PICTURE)
    return known.read(path, scale_masks)


def openable() -> str:
    """All endings, as file dialogs want them."""
    return " ".join(f"*{ending}" for f in FORMATS for ending in f.endings)


def refuse_outside(sheet: Sheet) -> None:
    """Raises Refused when an element lies wholly outside its sheet."""
    for e in sheet.elements:
        x0, y0, x1, y1 = e.outline.box
        if x1 <= 0 or y1 <= 0 or x0 >= sheet.width or y0 >= sheet.height:
            raise Refused(worded("“{0}” lies wholly outside the sheet: give it a box that reaches into 0 to 1, or leave it out.", e.name))
