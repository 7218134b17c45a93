"""What a worker on another machine does: it paints with its own copy of the pack, and answers with what it made."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..core.packs import Pack
from ..core.passes.painting import painted
from ..core.passes.plan import plan
from ..core.passes.request import Request
from ..core.passes.run import run_take
from ..core.passes.take import Take
from ..core.passes.watch import Watch
from ..core.refused import Refused
from ..core.values.sheet import Sheet
from ..packs.opened import open_pack


@lru_cache(maxsize=2)
def _pack(where: str, threads: int, digest: str) -> Pack:
    """The pack of a folder or an address, "" the installed one, loaded once.

    Raises:
        Refused: it is another one than where the work comes from.
    """
    pack = open_pack(where or None, threads)
    if pack.info.digest != digest:
        raise Refused(f"A machine has another version of the pack: {pack.info.name} {pack.info.version}.")
    return pack


def take_of(folder: str, threads: int, digest: str, sheet: Sheet, request: Request, seed: int) -> Take:
    """One take."""
    pack = _pack(folder, threads, digest)
    return run_take(plan(sheet, request, pack), pack, seed)


def tile_of(folder: str, threads: int, digest: str, sheet: Sheet, request: Request, seed: int, index: int) -> np.ndarray:
    """One tile of a take in tiles, (h, w, 3) uint8."""
    pack = _pack(folder, threads, digest)
    p = plan(sheet, request, pack)
    return painted(p.stages_by(seed, pack)[index], p.sheet, pack, Watch())
