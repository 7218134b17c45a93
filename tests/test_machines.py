"""Painting on other machines: the same bytes, a lost worker, a stop, what is refused. Two workers are started and stopped here."""

from __future__ import annotations

import os
import signal
import threading
from threading import Event

import pytest
from distributed import LocalCluster

from waldrand.cli import main
from waldrand.core.passes.plan import plan
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.watch import Stopped
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.far.machines import Machines, Work
from waldrand.files.layout import write_layout
from waldrand.files.pictures import read_picture, write_png


@pytest.fixture(scope="module")
def cluster():
    with LocalCluster(n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, host="127.0.0.1") as made:
        yield made


@pytest.fixture
def sheet() -> Sheet:
    return Sheet(256, 256, elements=(Element(1, "fox", Outline("box", (60, 80, 200, 240)), "fox"),), scene=SceneWords("meadow"))


def asked(seed: int = 1, steps: int = 3) -> Request:
    return Request("compose", PassSettings(steps=steps, guidance=1.0, seed=seed))


def test_takes_from_other_machines_are_the_same_bytes_though_a_worker_dies(cluster, own, sheet):
    machines = Machines(cluster.scheduler_address, own, None)
    seeds = range(1, 6)
    here = [run_take(plan(sheet, asked(seed), own), own, seed) for seed in seeds]
    made = machines.takes([Work(sheet, asked(seed), seed) for seed in seeds])
    first = next(made)
    pids = machines._client.run(os.getpid)
    os.kill(next(iter(pids.values())), signal.SIGKILL)
    takes = [first, *made]
    machines.close()
    for take, known in zip(takes, here, strict=True):
        assert (take.pixels == known.pixels).all()
        assert take.recipe == known.recipe


def test_a_stop_stops(cluster, own, sheet):
    machines, stop = Machines(cluster.scheduler_address, own, None), Event()
    threading.Timer(0.3, stop.set).start()
    with pytest.raises(Stopped):
        list(machines.takes([Work(sheet, asked(seed, 200), seed) for seed in range(4)], stop=stop))
    machines.close()


def test_a_pass_that_cannot_run_is_refused_from_there_too(cluster, own, sheet):
    machines = Machines(cluster.scheduler_address, own, None)
    with pytest.raises(Refused, match="no picture"):
        list(machines.takes([Work(sheet, Request("rework", PassSettings()), 1)]))
    machines.close()


def test_commands_spread_takes_ladders_and_tiles(cluster, own, sheet, tmp_path, capsys, monkeypatch):
    layout = tmp_path / "l.toml"
    write_layout(layout, sheet)
    on = ["--on", cluster.scheduler_address]
    few = ["--steps", "3", "--guidance", "1"]
    for where, more in (("here", []), ("there", on)):
        assert main(["run", str(layout), "--takes", "2", *few, *more, "--out", str(tmp_path / where)]) == 0
    for name in ("take-0.png", "take-1.png"):
        assert (read_picture(tmp_path / "here" / name).pixels == read_picture(tmp_path / "there" / name).pixels).all()
    assert main(["vary", str(layout), "--over", "steps=2,3", *on, "--out", str(tmp_path / "grid")]) == 0
    picture = tmp_path / "here" / "take-0.png"
    assert main(["ladder", str(picture), "--strengths", ".2,.4", *few, *on, "--out", str(tmp_path / "ladder")]) == 0
    for where, more in (("r-here.png", []), ("r-there.png", on)):
        # Nothing that was kept from the first may serve the second.
        monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / f"cache-{where}"))
        refine = ["refine", str(picture), "--by", "1.5", "--tile", "256", *few, "--no-check", *more, "--out", str(tmp_path / where)]
        assert main(refine) == 0
    assert (read_picture(tmp_path / "r-here.png").pixels == read_picture(tmp_path / "r-there.png").pixels).all()
    assert main(["run", str(layout), "--again", "1", *on, "--out", str(tmp_path / "x")]) == 2
    assert "leave it out with --on" in capsys.readouterr().err


def test_where_nobody_answers_that_is_said(sheet, own, tmp_path, capsys, monkeypatch):
    monkeypatch.setattr("waldrand.far.machines.PATIENCE", 1.0)
    with pytest.raises(Refused, match="No scheduler answers"):
        Machines("tcp://127.0.0.1:9", own, None, patience=1.0)
    path = tmp_path / "p.png"
    write_png(path, run_take(plan(sheet, asked(), own), own, 1).laid_on(sheet, "t").flatten())
    assert main(["refine", str(path), "--on", "nowhere", "--out", str(tmp_path / "o.png")]) == 2
    assert "No scheduler answers at nowhere" in capsys.readouterr().err
