"""Takes, cells of ladders and tiles spread over workers of a Dask scheduler: the same bytes as here, in whatever order they come back.

A worker that is lost has its work given to another by the scheduler; where all are lost for long, that is said. What is sent is
the sheet and what is asked for; each worker paints with its own copy of the pack, known by its digest.
"""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Event
from typing import Any

import numpy as np

from ..core.packs import Pack
from ..core.passes.plan import Plan
from ..core.passes.request import Request
from ..core.passes.take import Take
from ..core.passes.tiled import tile_keys
from ..core.passes.watch import KeptTiles, Progress, Step, Stopped
from ..core.refused import Refused
from ..core.values.sheet import Sheet
from ..packs.opened import Where
from .tasks import take_of, tile_of

#: Seconds to wait for a scheduler, and without any worker; how often it is looked whether a stop is wanted.
PATIENCE, ALONE, OFTEN = 10.0, 60.0, 0.1


@dataclass(frozen=True, eq=False)
class Work:
    """A take that is wanted."""

    sheet: Sheet
    request: Request
    seed: int


class Machines:
    """Workers behind a scheduler, like tcp://192.168.0.7:8786. where: the pack's folder or address, None: the installed one.

    Raises:
        Refused: the package for it is not installed, or no scheduler answers there.
    """

    def __init__(self, address: str, pack: Pack, where: Where, patience: float | None = None) -> None:
        try:
            from distributed import Client
        except ImportError as error:
            raise Refused('Other machines need the package “distributed”: pip install "waldrand[machines]".') from error
        try:
            self._client: Any = Client(address, timeout=patience or PATIENCE, set_as_default=False)  # type: ignore[no-untyped-call]
        except (OSError, TimeoutError, ValueError, RuntimeError) as error:
            raise Refused(f"No scheduler answers at {address}. Start one with: dask scheduler") from error
        self._own = (str(where.resolve()) if isinstance(where, Path) else where or "", pack.info.threads, pack.info.digest)

    def close(self) -> None:
        self._client.close()

    def takes(self, works: Sequence[Work], progress: Progress | None = None, stop: Event | None = None) -> Iterator[Take]:
        """A take of each, in their order; each is given away as soon as those before it are there.

        Raises:
            Refused: one of them cannot run, a worker has another pack, or no worker is left.
            Stopped: `stop` was set; those given away before stay good.
        """
        futures = [self._client.submit(take_of, *self._own, w.sheet, w.request, w.seed, pure=False) for w in works]
        try:
            for i, future in enumerate(futures):
                take: Take = self.waited(future, stop)
                if progress is not None:
                    progress(Step(i, len(works), 1, 1, np.zeros((1, 1, 4), np.uint8), take.frame))
                yield take
        finally:
            self._client.cancel(futures, force=True)

    def tiles(self, plan: Plan, sheet: Sheet, request: Request, pack: Pack, kept: KeptTiles, stop: Event | None = None) -> FarTiles:
        """The tiles of a take, painted there; those that were kept here are not sent for."""
        seed = request.settings.seed
        wanted = {
            key: self._client.submit(tile_of, *self._own, sheet, request, seed, i, pure=False)
            for i, (key, shape) in enumerate(tile_keys(plan, pack, seed))
            if kept.get(key, shape) is None
        }
        return FarTiles(self, wanted, kept, stop)

    def waited(self, future: Any, stop: Event | None) -> Any:
        """What a task gives, looking often whether a stop is wanted."""
        alone = time.monotonic()
        while not future.done():
            if stop is not None and stop.is_set():
                raise Stopped
            if self._client.scheduler_info()["workers"]:
                alone = time.monotonic()
            elif time.monotonic() - alone > ALONE:
                raise Refused("No machine is left to paint on. What was finished before is kept.")
            time.sleep(OFTEN)
        try:
            return future.result()
        except Refused:
            raise
        except Exception as error:
            raise Refused(
                f"A machine could not paint: {type(error).__name__}: {str(error).splitlines()[0] if str(error) else ''}"
            ) from error

    def given_up(self, futures: Sequence[Any]) -> None:
        """Nothing of these is wanted any more."""
        self._client.cancel(list(futures), force=True)


class FarTiles:
    """Tiles as a pass asks for them: from where they were kept, else from whoever paints them."""

    def __init__(self, machines: Machines, wanted: Mapping[str, Any], kept: KeptTiles, stop: Event | None) -> None:
        self._machines, self._wanted, self._kept, self._stop = machines, wanted, kept, stop

    def get(self, key: str, shape: tuple[int, ...]) -> np.ndarray | None:
        known = self._kept.get(key, shape)
        future = self._wanted.get(key)
        if known is not None or future is None:
            return known
        pixels: np.ndarray = self._machines.waited(future, self._stop)
        self._kept.put(key, pixels)
        return pixels

    def put(self, key: str, pixels: np.ndarray) -> None:
        self._kept.put(key, pixels)

    def close(self) -> None:
        """Whatever is still under way is given up."""
        self._machines.given_up(list(self._wanted.values()))
