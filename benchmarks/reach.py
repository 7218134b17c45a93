"""Takes computed elsewhere: on one and on two workers of a scheduler, and by a pack behind a server, each against here.

Everything runs on this machine, each worker and the server on one thread, as does what is computed here: what is told is what sharing
out and asking cost and gain. Greatest difference from here: of any pixel's channel. `python benchmarks/reach.py [--takes N] [--pack DIR]`
"""

from __future__ import annotations

import argparse
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from layouts import load_layouts
from machine import describe

from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.refused import Refused
from waldrand.far.machines import Machines, Work
from waldrand.packs.onnx_pack import OnnxPack, own_pack_folder
from waldrand.packs.opened import open_pack

SERVES = "import sys; from pathlib import Path; from waldrand.far.serving import serve; "
SERVES += "serve({'pack': Path(sys.argv[1])}, '127.0.0.1', int(sys.argv[2]), int(sys.argv[3]), threads=1)"
PATIENCE = 60.0


def ports(count: int) -> list[int]:
    """Ports that nobody uses."""
    held = [socket.create_server(("127.0.0.1", 0)) for _ in range(count)]
    out = [int(s.getsockname()[1]) for s in held]
    for s in held:
        s.close()
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=6)
    parser.add_argument("--pack", type=Path)
    options = parser.parse_args()
    folder = options.pack or own_pack_folder()
    pack = OnnxPack(folder, threads=1)
    print(f"{describe()}; pack {pack.info.name} {pack.info.version}; {options.takes} takes of 512 x 512")
    sheet, seeds = load_layouts()[0][0].sheet(), range(options.takes)
    request = Request("compose", PassSettings())

    def timed(
        name: str, make: Callable[[], list[np.ndarray]], against: tuple[float, list[np.ndarray]] | None
    ) -> tuple[float, list[np.ndarray]]:
        make()
        begun = time.perf_counter()
        made = make()
        seconds = time.perf_counter() - begun
        if against is None:
            print(f"{name:28s} {seconds:6.1f} s", flush=True)
        else:
            apart = max(int(np.abs(a.astype(int) - b).max()) for a, b in zip(made, against[1], strict=True))
            print(f"{name:28s} {seconds:6.1f} s  {seconds / against[0]:5.2f} of here, greatest difference {apart}", flush=True)
        return seconds, made

    here = timed("here", lambda: [run_take(plan(sheet, request, pack), pack, s).pixels for s in seeds], None)
    from distributed import LocalCluster

    works = [Work(sheet, request, s) for s in seeds]
    for workers in (1, 2):
        with LocalCluster(n_workers=workers, threads_per_worker=1, dashboard_address=None, host="127.0.0.1") as cluster:
            machines = Machines(cluster.scheduler_address, pack, options.pack)
            timed(f"workers: {workers}", lambda m=machines: [t.pixels for t in m.takes(works)], here)  # type: ignore[misc]
            machines.close()
    http, grpc = ports(2)
    served = subprocess.Popen(
        [sys.executable, "-c", SERVES, str(folder), str(http), str(grpc)], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    try:
        for at in (f"grpc://127.0.0.1:{grpc}/pack", f"http://127.0.0.1:{http}/pack"):
            begun = time.monotonic()
            while True:
                with suppress(Refused):
                    far = open_pack(at, threads=1)
                    break
                if time.monotonic() - begun > PATIENCE:
                    raise SystemExit("the server does not answer")
                time.sleep(0.5)
            timed(at.split(":")[0], lambda p=far: [run_take(plan(sheet, request, p), p, s).pixels for s in seeds], here)  # type: ignore[misc]
    finally:
        served.kill()


if __name__ == "__main__":
    main()
