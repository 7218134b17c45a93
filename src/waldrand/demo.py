"""The demo: Moth Night at Lerchenmoor, from the layout to the saved sheet, without a window."""

from __future__ import annotations

import tomllib
from collections.abc import Callable
from dataclasses import dataclass, replace
from importlib.resources import files
from pathlib import Path
from threading import Event

from .core.packs import Pack
from .core.passes.plan import plan
from .core.passes.recipe import picture_recipe
from .core.passes.request import Request
from .core.passes.run import run
from .core.passes.settings import PassSettings
from .core.passes.watch import Progress
from .core.values.masks import Mask
from .core.values.outline import Outline
from .core.values.shaping import drawn
from .core.values.sheet import Sheet
from .demo_day import NAMES, run_day
from .files.contact import contact_sheet
from .files.layout import Layout, read_layout
from .files.openraster import save_sheet
from .files.pictures import write_png


@dataclass(frozen=True, eq=False)
class Demo:
    """layout; takes to make, whether things are painted from nearer, the seed of the one to keep; the mask, words and settings of the
    inpaint."""

    layout: Layout
    takes: int
    finer: bool
    keep: int
    mask: Mask
    words: str
    inpaint: PassSettings


def load_demo() -> Demo:
    """The demo that is installed with the app."""
    folder = Path(str(files("waldrand") / "data" / "demo"))
    d = tomllib.loads((folder / "demo.toml").read_text("utf-8"))
    layout = read_layout(folder / d["layout"])
    w, h, i = layout.sheet.width, layout.sheet.height, d["inpaint"]
    x0, y0, x1, y1 = i["box"]
    mask = Mask.from_array(drawn(Outline(i["shape"], (x0 * w, y0 * h, x1 * w, y1 * h)), layout.sheet.rect))
    settings = replace(layout.settings, strength=i["strength"], seed=i["seed"])
    return Demo(layout, d["takes"], d["finer"], d["keep"], mask, i["words"], settings)


def output_names(demo: Demo) -> list[str]:
    """The files `run_demo` writes."""
    first = demo.layout.settings.seed
    return [*(f"take-{first + i}.png" for i in range(demo.takes)), "contact-sheet.png", "moth-night.png", "moth-night.ora", *NAMES]


def run_demo(
    demo: Demo, pack: Pack, out: Path, progress: Progress | None = None, stop: Event | None = None, say: Callable[[str], None] = print
) -> Sheet:
    """Composes the takes, keeps one, inpaints, keeps that, and goes on with it; saves everything in `out`; returns the sheet."""
    sheet, settings = demo.layout.sheet, demo.layout.settings
    compose = plan(sheet, Request("compose", settings, small_nearer=demo.finer), pack)
    for line in compose.sentences:
        say(line)
    takes = []
    for take in run(compose, pack, demo.takes, progress, stop):
        whole = take.laid_on(sheet, f"take {take.seed}")
        write_png(out / f"take-{take.seed}.png", take.pixels, picture_recipe(whole))
        takes.append((take, whole))
        say(f"take-{take.seed}.png")
    write_png(out / "contact-sheet.png", contact_sheet([(t.pixels, f"seed {t.seed}") for t, _ in takes], 2))
    kept = next(whole for t, whole in takes if t.seed == demo.keep)
    masked = replace(kept, mask=demo.mask)
    repaint = plan(masked, Request("inpaint", demo.inpaint, demo.words), pack)
    for line in repaint.sentences:
        say(line)
    take = next(run(repaint, pack, 1, progress, stop))
    done = replace(take.laid_on(masked, demo.words), mask=None)
    write_png(out / "moth-night.png", done.flatten(), picture_recipe(done))
    save_sheet(out / "moth-night.ora", done)
    say("moth-night.png, moth-night.ora, contact-sheet.png")
    return run_day(done, settings, pack, out, progress, stop, say)
