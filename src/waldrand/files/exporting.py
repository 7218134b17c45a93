"""Pictures given away: PNG, JPEG, TIFF and WebP, at any size, with what is to be said of them inside."""

from __future__ import annotations

import io
import string
import xml.etree.ElementTree as ET
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, PngImagePlugin

from ..core.picture.resample import resize_rgba
from ..core.refused import Refused
from ..core.values.sheet import check_size
from ..core.worded import worded
from .atomic import write_atomically

#: The formats there are, each with its ending.
ENDINGS: Mapping[str, str] = {"png": ".png", "jpeg": ".jpg", "tiff": ".tif", "webp": ".webp"}
OF_ENDING: Mapping[str, str] = {".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg", ".tif": "tiff", ".tiff": "tiff", ".webp": "webp"}
#: How well JPEG and WebP keep a picture, of 100.
QUALITY = 92
RDF, DC, META = "http://www.w3.org/1999/02/22-rdf-syntax-ns#", "http://purl.org/dc/elements/1.1/", "adobe:ns:meta/"
#: The number of the TIFF field that holds XMP.
TIFF_XMP = 700
#: What may stand in a name's pattern.
PLACES = ("sheet", "kind", "seed", "n")


@dataclass(frozen=True)
class About:
    """What a picture says of itself; empty: nothing."""

    title: str = ""
    author: str = ""
    rights: str = ""
    description: str = ""

    @property
    def said(self) -> bool:
        return bool(self.title or self.author or self.rights or self.description)


def xmp(about: About) -> bytes:
    """An XMP packet in Dublin Core's terms (ISO 16684-1)."""
    for prefix, uri in (("x", META), ("rdf", RDF), ("dc", DC)):
        ET.register_namespace(prefix, uri)
    root = ET.Element(f"{{{META}}}xmpmeta")
    described = ET.SubElement(ET.SubElement(root, f"{{{RDF}}}RDF"), f"{{{RDF}}}Description", {f"{{{RDF}}}about": ""})
    for name, text, sort in (
        ("title", about.title, "Alt"),
        ("creator", about.author, "Seq"),
        ("rights", about.rights, "Alt"),
        ("description", about.description, "Alt"),
    ):
        if text:
            listed = ET.SubElement(ET.SubElement(described, f"{{{DC}}}{name}"), f"{{{RDF}}}{sort}")
            one = ET.SubElement(listed, f"{{{RDF}}}li")
            if sort == "Alt":
                one.set("{http://www.w3.org/XML/1998/namespace}lang", "x-default")
            one.text = "".join(c for c in text if c.isprintable())
    body = ET.tostring(root, encoding="unicode")
    return f'<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>{body}<?xpacket end="w"?>'.encode()


def export_picture(path: Path, pixels: np.ndarray, form: str, size: tuple[int, int] | None = None, about: About | None = None) -> None:
    """Writes (H, W, 4) uint8, atomically. size: width and height, None: as it is. JPEG has no transparency: it is laid on white.

    Raises:
        Refused: there is no such format, a size that no picture can have, or the file cannot be written.
    """
    if form not in ENDINGS:
        raise Refused(worded("There is no format called “{0}”; choose one of {1}.", form, ", ".join(ENDINGS)))
    if size is not None:
        check_size(*size)
        pixels = resize_rgba(np.ascontiguousarray(pixels), size[1], size[0])
    if form == "jpeg":
        alpha = pixels[..., 3:].astype(np.uint32)
        image = Image.fromarray(((pixels[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255).astype(np.uint8))
    else:
        image = Image.fromarray(pixels if (pixels[..., 3] < 255).any() else np.ascontiguousarray(pixels[..., :3]))
    out = io.BytesIO()
    image.save(out, form.upper(), **_more(form, about or About()))
    write_atomically(path, lambda f: f.write(out.getvalue()))


def _more(form: str, about: About) -> dict[str, Any]:
    """What a format is told beside the picture."""
    packet = xmp(about) if about.said else None
    match form:
        case "png":
            info = PngImagePlugin.PngInfo()
            if packet:
                info.add_itxt("XML:com.adobe.xmp", packet.decode())
            return {"pnginfo": info, "compress_level": 4}
        case "tiff":
            return {"compression": "tiff_deflate"} | ({"tiffinfo": {TIFF_XMP: packet}} if packet else {})
        case _:
            return {"quality": QUALITY} | ({"xmp": packet} if packet else {})


def named(pattern: str, ending: str, things: Iterable[Mapping[str, object]]) -> list[str]:
    """Names of files by a pattern like {sheet}-{kind}-{seed}-{n}, one for each thing.

    Raises:
        Refused: a place that is none, a name that is none, or two things with one name.
    """
    out: list[str] = []
    try:
        places = {name for _, name, _, _ in string.Formatter().parse(pattern) if name is not None}
    except ValueError as error:
        raise Refused(worded("“{0}” is no pattern for names: {1}.", pattern, str(error))) from error
    if wrong := sorted(places - set(PLACES)):
        raise Refused(worded("A pattern for names knows {0}, not “{1}”.", ", ".join(f"{{{p}}}" for p in PLACES), wrong[0]))
    for thing in things:
        name = pattern.format(**thing).strip()
        if not name or name in (".", "..") or any(c in name for c in '/\\:*?"<>|') or not name.isprintable():
            raise Refused(worded("“{0}” is no name for a file.", name))
        if f"{name}{ending}" in out:
            raise Refused(worded("Two files would be called “{0}”: put {{n}} into the pattern.", f"{name}{ending}"))
        out.append(f"{name}{ending}")
    return out
