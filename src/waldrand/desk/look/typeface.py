"""The typeface that is shipped: upright and italic, two weights, figures of one width."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files

from PyQt6.QtGui import QFontDatabase

FILES = ("SourceSansPro-Regular.otf", "SourceSansPro-It.otf", "SourceSansPro-Semibold.otf", "SourceSansPro-SemiboldIt.otf")
FAMILY = "Source Sans Pro"


@lru_cache(maxsize=1)
def load_typeface() -> tuple[str, ...]:
    """Makes it known to this program; returns its families. Needs an application."""
    found: list[str] = []
    for name in FILES:
        data = (files("waldrand") / "data" / "type" / name).read_bytes()
        known = QFontDatabase.addApplicationFontFromData(data)
        found += QFontDatabase.applicationFontFamilies(known) if known >= 0 else []
    return tuple(dict.fromkeys(found))
