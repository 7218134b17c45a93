"""The passes over the whole that are still to be seen on a sheet."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from ..values.layers import Layer
from ..values.sheet import Sheet

#: Kinds of pass over the whole sheet.
OVER_ALL = ("compose", "rework")


def passes_over_all(sheet: Sheet) -> Iterator[tuple[Layer, dict[str, Any], int]]:
    """Their patches, recipes and seeds, the newest first; damaged ones are left out."""
    for layer in reversed(sheet.layers):
        recipe: dict[str, Any] = layer.recipe or {}
        settings = recipe.get("settings")
        seed = settings.get("seed") if isinstance(settings, dict) else None
        if layer.visible and recipe.get("kind") in OVER_ALL and type(seed) is int:
            yield layer, recipe, seed
