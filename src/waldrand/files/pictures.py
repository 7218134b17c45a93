"""PNG and JPEG pictures, with the recipe inside a PNG."""

from __future__ import annotations

import base64
import io
import json
import warnings
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from PIL import Image, ImageCms, ImageOps, PngImagePlugin, UnidentifiedImageError

from ..core.refused import Refused
from ..core.values.sheet import check_not_gigantic
from ..core.worded import worded
from .atomic import write_atomically

RECIPE, INPUT = "waldrand-recipe", "waldrand-input"
LARGEST_FILE = 1_000_000_000
LARGEST_TEXT = 256_000_000
# Sizes are checked by ourselves, before pixels are decoded; embedded inputs are long texts.
Image.MAX_IMAGE_PIXELS = None
PngImagePlugin.MAX_TEXT_CHUNK = LARGEST_TEXT
PngImagePlugin.MAX_TEXT_MEMORY = 2 * LARGEST_TEXT


@dataclass(frozen=True)
class Picture:
    """pixels: (H, W, 4) uint8 sRGB, straight alpha; notes: what was converted, in sentences."""

    pixels: np.ndarray
    notes: tuple[str, ...] = ()


def _open(source: Path | BinaryIO, name: str) -> Image.Image:
    try:
        if isinstance(source, Path) and source.stat().st_size > LARGEST_FILE:
            raise Refused(worded("{0} is larger than a gigabyte; that is no picture Waldrand can open.", name))
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(source, formats=("PNG", "JPEG", "WEBP", "TIFF"))
        check_not_gigantic(*image.size)
        return image
    except FileNotFoundError as error:
        raise Refused(worded("There is no file {0}.", name)) from error
    except IsADirectoryError as error:
        raise Refused(worded("{0} is a folder, not a picture.", name)) from error
    except UnidentifiedImageError as error:
        raise Refused(worded("{0} is not a picture Waldrand can read (PNG, JPEG, WebP or TIFF), or it is damaged.", name)) from error
    except OSError as error:
        raise Refused(worded("{0} cannot be read: {1}.", name, error.strerror or "it is damaged or cut short")) from error


def size_of(source: Path | BinaryIO, name: str) -> tuple[int, int]:
    """Width and height of a picture, of which nothing else is read.

    Raises:
        Refused: missing, damaged or too large, in a sentence.
    """
    return _open(source, name).size


def _load(image: Image.Image, name: str) -> Image.Image:
    try:
        image.load()
        return ImageOps.exif_transpose(image)
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError) as error:
        raise Refused(worded("{0} is damaged or cut short: {1}.", name, error)) from error


def opened_picture(source: Path | BinaryIO, name: str) -> Image.Image:
    """A picture as it is in its file, turned by its EXIF mark.

    Raises:
        Refused: missing, damaged or too large, in a sentence.
    """
    return _load(_open(source, name), name)


def _grey16(image: Image.Image) -> Image.Image:
    return Image.fromarray((np.asarray(image).astype(np.int64) >> 8).clip(0, 255).astype(np.uint8))


def _in_srgb(image: Image.Image, name: str, notes: list[str]) -> Image.Image:
    """The picture with its colour profile applied; one that cannot be applied is left out, saying so."""
    profile = image.info.get("icc_profile")
    if not profile:
        return image
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        alpha = image.convert("RGBA").getchannel("A") if image.mode in ("RGBA", "LA", "PA", "P") else None
        plain = image.convert("L" if image.mode in ("L", "LA") else "RGB") if image.mode not in ("RGB", "L", "CMYK") else image
        out = ImageCms.profileToProfile(plain, own, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError, ValueError):
        notes.append(worded("The colour profile of {0} could not be applied; its colours may look a little off.", name))
        return image
    assert out is not None
    if alpha is not None:
        out.putalpha(alpha)
    # Most profiles say sRGB already; then nothing worth telling happened.
    if "srgb" not in ImageCms.getProfileDescription(own).lower():
        notes.append(worded("{0} has a colour profile; its colours were converted to sRGB.", name))
    return out


def read_picture(source: Path | BinaryIO, name: str | None = None) -> Picture:
    """A picture as it is meant to be seen: turned by its EXIF mark, alpha kept, 8 bits a channel.

    Raises:
        Refused: missing, damaged or too large, in a sentence.
    """
    name = name or str(source)
    return as_seen(opened_picture(source, name), name)


def as_seen(image: Image.Image, name: str) -> Picture:
    """A picture out of its file as it is meant to be seen."""
    notes = []
    if image.mode.startswith("I"):
        notes.append(worded("{0} has 16 bits a channel; it was converted to 8.", name))
        image = _grey16(image)
    image = _in_srgb(image, name, notes)
    if image.mode not in ("1", "L", "LA", "P", "PA", "RGB", "RGBA"):
        image = image.convert("RGB")
    return Picture(np.ascontiguousarray(np.asarray(image.convert("RGBA"))), tuple(notes))


def read_grey(source: Path | BinaryIO, name: str | None = None) -> np.ndarray:
    """A mask picture as (H, W) uint8: its grey, or its alpha where it has one that says something."""
    name = name or str(source)
    image = opened_picture(source, name)
    if image.mode.startswith("I"):
        image = _grey16(image)
    if image.mode in ("RGBA", "LA", "PA"):
        alpha = np.asarray(image.convert("RGBA"))[..., 3]
        if (alpha < 255).any():
            return np.ascontiguousarray(alpha)
    return np.ascontiguousarray(np.asarray(image.convert("L")))


def png_bytes(
    pixels: np.ndarray, recipe: dict[str, Any] | None = None, start: np.ndarray | None = None, credits: Mapping[str, str] | None = None
) -> bytes:
    """(H, W), (H, W, 3) or (H, W, 4) uint8 as a PNG, with a recipe and the picture it starts from if given. credits: texts by the
    standard's keywords, "Author" and "Copyright"."""
    info = PngImagePlugin.PngInfo()
    for keyword, text in (credits or {}).items():
        info.add_itxt(keyword, text)
    if recipe is not None:
        info.add_itxt(RECIPE, json.dumps(recipe), zip=True)
    if start is not None:
        info.add_itxt(INPUT, base64.b64encode(png_bytes(start)).decode())
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", pnginfo=info, compress_level=4)
    return out.getvalue()


def write_png(
    path: Path,
    pixels: np.ndarray,
    recipe: dict[str, Any] | None = None,
    start: np.ndarray | None = None,
    credits: Mapping[str, str] | None = None,
) -> None:
    """As `png_bytes`, into a file, atomically."""
    data = png_bytes(pixels, recipe, start, credits)
    write_atomically(path, lambda f: f.write(data))


def _text(path: Path, key: str) -> str | None:
    """A text stored in a PNG under a key."""
    image = _open(path, str(path))
    if not isinstance(image, PngImagePlugin.PngImageFile):
        return None
    _load(image, str(path))
    return image.text.get(key)


def read_recipe(path: Path) -> dict[str, Any] | None:
    """The recipe inside a picture, or None.

    Raises:
        Refused: the picture cannot be read, or its recipe is damaged.
    """
    text = _text(path, RECIPE)
    if text is None:
        return None
    try:
        recipe = json.loads(text)
    except (json.JSONDecodeError, RecursionError):
        recipe = None
    if not isinstance(recipe, dict):
        raise Refused(worded("The recipe in {0} is damaged.", path))
    return recipe


def read_start(path: Path) -> np.ndarray | None:
    """The picture stored beside a recipe that it starts from, (H, W, 4) uint8, or None."""
    text = _text(path, INPUT)
    if text is None:
        return None
    try:
        return read_picture(io.BytesIO(base64.b64decode(text)), "it").pixels
    except ValueError as error:
        raise Refused(worded("The start picture stored in {0} is damaged.", path)) from error
