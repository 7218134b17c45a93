"""Takes looked at, compared, kept and dropped."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from ...core.passes.plan import plan
from ...core.passes.recipe import request_from_json, sheet_before
from ...core.picture.resample import resize_mask
from ...core.refused import Refused
from ...core.values.frame import Rect
from ...core.values.layers import Patch, PictureLayer
from ...core.values.outline import rasterise
from ...core.values.sheet import Sheet
from ...core.worded import worded
from ...files.contact import contact_sheet
from ...files.opened import SavedTake
from ...files.pictures import write_png
from ..columns.take_delegate import short
from ..columns.tray import TrayTake
from ..dialogs import Dialogs
from ..document import State
from ..takes_page import Shown, TakesPage
from .beside import Beside, Tick
from .passes import Passes
from .runner import Made

#: Feather of a part of a take that is kept, and the longest side of a take on the exported page.
PART_FEATHER, PAGE_SIDE = 8.0, 1024


class Takes:
    """What is done with takes that are there."""

    def __init__(self, passes: Passes, dialogs: Callable[[], Dialogs], beside: Beside) -> None:
        self._passes, self._dialogs, self._beside = passes, dialogs, beside
        self.document, self.tray, self.view, self.say = passes.document, passes.tray, passes.view, passes.say
        self.difference = False
        self._dropped: list[list[tuple[int, TrayTake]]] = []
        #: Of each layer under which a take was laid, that patch.
        self._under: dict[int, int] = {}
        self.tray.shown.connect(self._show)
        self.tray.hovered.connect(self._hover)
        self.tray.keep_wanted.connect(self.keep)
        self.tray.drop_wanted.connect(self.drop_current)
        self.tray.sheet_wanted.connect(self.show_all)
        self.document.replaced.connect(self._dropped.clear)
        self.document.replaced.connect(self._under.clear)
        passes.runner.taken.connect(self._arrived)
        self.document.changed.connect(self._sheet_changed)

    # --- looking

    def _sheet_changed(self, before: State, after: State) -> None:
        if before.sheet.extent != after.sheet.extent:
            # The shown take lies elsewhere now.
            self._show(self.tray.current)

    def _show(self, entry: TrayTake | None) -> None:
        failed = [s.says for s in entry.scores if s.says] if entry is not None else []
        if failed:
            self.say(" ".join((*failed, worded("Shift+T gives what missed another chance."))))
        sheet = self.document.sheet
        way = None if entry is None else entry.take.way_to(sheet)
        if entry is None or way is None:
            self.view.canvas.show_overlay(None, sheet.rect)
            if entry is not None:
                self.say(worded("That take belongs to a sheet of another size, and cannot be shown on this one."))
            return
        partner = self.tray.partner
        pixels = entry.take.to_patch(0, "").shown
        if self.difference:
            pixels = np.dstack([self._apart(entry, way), pixels[..., 3]])
        self.view.canvas.show_overlay(pixels, entry.take.frame.moved(*way))
        if partner is not None and partner is not entry and not self.difference and (other := partner.take.way_to(sheet)) is not None:
            sheet = self.document.sheet
            self.view.canvas.wipe.show(partner.take.to_patch(0, "").shown, partner.take.frame.moved(*other), (sheet.width, sheet.height))

    def _hover(self, entry: TrayTake | None) -> None:
        """Shows the take that the pointer rests on, and the shown one again when it goes on."""
        if not self._passes.runner.running:
            self._show(entry or self.tray.current)

    def _apart(self, entry: TrayTake, way: tuple[int, int]) -> np.ndarray:
        """How a take differs from the one compared with, or from the sheet before it: grey where it does not."""
        take, partner = entry.take, self.tray.partner
        if partner is not None and partner is not entry and partner.take.frame == take.frame:
            other = partner.take.pixels
        else:
            other = self.document.sheet.flatten(take.frame.moved(*way))[..., :3]
        apart = take.pixels.astype(np.int16) - other
        return np.asarray(np.clip(128 + 2 * apart, 0, 255), np.uint8)

    def show_difference(self, on: bool) -> None:
        self.difference = on
        self._show(self.tray.current)

    def show_all(self) -> None:
        """All takes side by side."""
        if not self.tray.takes:
            self.say(worded("There are no takes yet: run a pass."))
            return
        takes = list(self.tray.takes)
        current = 0 if self.tray.current is None else takes.index(self.tray.current)
        desk = self.view.backgroundBrush().color()
        page = TakesPage([self.on_page(t) for t in takes], current, desk, self.tray.window())
        page.exported.connect(lambda: self._export_page(takes))
        page.mark_wanted.connect(lambda i: self._from_page(takes[i], self.tray.mark_current))
        page.keep_wanted.connect(lambda i: self._from_page(takes[i], self.keep))
        if self._dialogs().show(page):
            self.tray.show_entry(takes[page.chosen])

    def on_page(self, entry: TrayTake) -> Shown:
        return Shown(
            partial(self.whole, entry),
            lambda: f"{short(entry.label)} · {entry.settings}",
            self.tray.landed_of(entry),
            lambda: entry.marked,
            lambda: entry.kept,
        )

    def _from_page(self, entry: TrayTake, act: Callable[[], object]) -> None:
        """Does something with a take as if it were the shown one."""
        self.tray.show_entry(entry)
        act()

    @staticmethod
    def whole(entry: TrayTake) -> np.ndarray:
        """The sheet as the take would leave it, (h, w, 3) uint8."""
        return np.ascontiguousarray(entry.take.laid_on(entry.plan.sheet, "take").flatten()[..., :3])

    def _export_page(self, takes: Sequence[TrayTake]) -> None:
        path = self._dialogs().save_path(worded("Export page"), "takes.png", worded("PNG picture (*.png)"), ".png")
        if path is None:
            return
        labels = [f"{t.label}\n{t.settings}".replace("\n", ", ") for t in takes]

        def write(tick: Tick) -> None:
            pictures = []
            for entry in takes:
                tick()
                pictures.append(_small(self.whole(entry)))
            h, w = pictures[0].shape[:2]
            same = [p if p.shape[:2] == (h, w) else _fitted(p, h, w) for p in pictures]
            write_png(path, contact_sheet(list(zip(same, labels, strict=True)), min(len(same), 4)))

        self._beside.do(
            worded("Exporting {0}", path.name),
            write,
            lambda _: self.say(worded("Exported {0}.", path.name)),
            self._not_exported,
            len(takes),
        )

    def _not_exported(self, why: str) -> None:
        if why:
            self._dialogs().tell(why)

    # --- keeping and dropping

    def keep(self, part: bool = False) -> None:
        """Keeps the shown take as a patch, where it was made; with `part` only what the mask covers."""
        entry, sheet = self.tray.current, self.document.sheet
        if entry is None:
            self.say(worded("There is no take to keep: run a pass, or step to a take."))
            return
        take, way = entry.take, entry.take.way_to(sheet)
        if way is None:
            self.say(worded("That take belongs to a sheet of another size."))
            return
        name = str(take.recipe["words"]) or (f"{take.recipe['kind']}, seed {take.seed}" if entry.under is None else worded("behind"))
        if take.parts and not part and entry.under is None:
            self._keep_parts(entry, name, way)
            return
        patch = take.to_patch(sheet.next_key(), name).moved(*way)
        if part:
            covered = self._covered(sheet, patch.frame)
            if covered is None:
                self.say(worded("Paint with the mask brush (M) over the part of the take to keep, or choose elements, then press Shift+K."))
                return
            part_of = worded("part of {0}", name)
            region = np.minimum(patch.region, covered)
            if not region.any():
                self.say(worded("The mask does not meet the take: nothing would be kept."))
                return
            sheet = replace(sheet, mask=None)
            patch = replace(patch, name=part_of, region=region, feather=PART_FEATHER)
        made = sheet.with_made(patch) if entry.under is None else self._laid_under(sheet, patch, entry.under)
        self.document.edit(made, worded("keep part of the take") if part else worded("keep take"))
        self.tray.mark_kept()
        self.tray.rest()

    def _keep_parts(self, entry: TrayTake, name: str, way: tuple[int, int]) -> None:
        """A patch for each part that a take is made of, in a group, so that one of them can go and the rest stay."""
        sheet, group = self.document.sheet, worded("{0}, seed {1}", str(entry.take.recipe["kind"]), entry.take.seed)
        for i, one in enumerate(entry.take.parts, 1):
            patch = one.to_patch(sheet.next_key(), worded("{0} {1}", str(one.recipe["words"]) or name, i)).moved(*way)
            sheet = sheet.with_made(patch.changed(group=group))
        self.document.edit(sheet, worded("keep take"))
        self.tray.mark_kept()
        self.tray.rest()

    def _laid_under(self, sheet: Sheet, patch: Patch, key: int) -> Sheet:
        """A patch right below a layer, in the place of the one that was laid there before; over all where that layer is gone."""
        if not sheet.has_layer(key):
            return sheet.with_made(patch)
        if key in self._under and sheet.has_layer(self._under[key]):
            sheet = sheet.without_layer(self._under[key])
        self._under[key] = patch.key
        at = next(i for i, x in enumerate(sheet.layers) if x.key == key)
        return replace(sheet, layers=(*sheet.layers[:at], patch, *sheet.layers[at:]))

    def _arrived(self, made: Made) -> None:
        """The first take that belongs under a layer is laid there at once; others are chosen by keeping them."""
        key = made.work.under
        if key is None or key in self._under or not self.document.sheet.has_layer(key):
            return
        entry = next((e for e in self.tray.takes if e.take is made.take), None)
        if entry is not None:
            self.tray.show_entry(entry)
            self.keep()
            self.view.selection.choose_layer(key)

    def _covered(self, sheet: Sheet, frame: Rect) -> np.ndarray | None:
        """What the mask covers of a frame, (h, w) uint8 of 0 and 255; without a mask the chosen outlines; None: neither is there."""
        if sheet.mask is not None and not sheet.mask.empty:
            inside = sheet.mask.read(frame) > 127
        elif chosen := [e for e in sheet.elements if e.key in self.view.selection.keys]:
            inside = np.maximum.reduce([rasterise(e.outline, frame, frame.height, frame.width) for e in chosen]) > 0.5
        else:
            return None
        return np.where(inside, 255, 0).astype(np.uint8)

    def drop_current(self) -> None:
        """The shown take leaves the tray."""
        if self.tray.current is not None:
            self._drop([self.tray.current])

    def drop_unmarked(self) -> None:
        """Drops every take that is neither marked nor kept, if any is marked."""
        takes = self.tray.takes
        if any(t.marked for t in takes):
            self._drop([t for t in takes if not t.marked and not t.kept])

    def _drop(self, entries: list[TrayTake]) -> None:
        if not entries:
            return
        places = [(self.tray.takes.index(e), e) for e in entries]
        self._dropped.append(places)
        what = worded("drop {0} take", len(entries)) + ("s" if len(entries) > 1 else "")
        self.document.act(what, partial(self.tray.take_away, entries), partial(self.tray.put_back, places))

    def bring_back(self) -> None:
        """Puts what was dropped last, and is still gone, back in its place."""
        while self._dropped:
            places = [(row, e) for row, e in self._dropped.pop() if e not in self.tray.takes]
            if places:
                away = partial(self.tray.take_away, [e for _, e in places])
                self.document.act(worded("bring back takes"), partial(self.tray.put_back, places), away)
                return

    # --- files

    def to_save(self) -> list[SavedTake]:
        """The tray, to be saved with the sheet."""
        return [_saved(t) for t in self.tray.takes]

    def at_stake(self) -> list[SavedTake]:
        """The takes that are neither kept nor saved."""
        return [_saved(t) for t in self.tray.takes if not t.kept and not t.saved]

    def mark_saved(self, takes: Sequence[SavedTake]) -> None:
        saved = {s.take for s in takes}
        for t in self.tray.takes:
            t.saved = t.saved or t.take in saved

    def show_saved(self, takes: Sequence[SavedTake]) -> None:
        """Puts takes that were saved with the sheet back into the tray; one whose recipe cannot be read is left out, saying so."""
        sheet, lost = self.document.sheet, 0
        for saved in takes:
            try:
                made = plan(_sheet_of(saved, sheet), request_from_json(saved.take.recipe), self._passes.pack, self._passes.speed)
            except Refused:
                lost += 1
                continue
            self._passes.use_seed(saved.take.seed)
            self.tray.add(TrayTake(saved.take, made, saved.special, saved.kept, saved.marked, saved=True), show=False)
        self.tray.check_layout(sheet)
        if lost:
            self.say(worded("{0} take{1} left out: made on a sheet that is no longer so.", lost, " was" if lost == 1 else "s were"))


def _saved(entry: TrayTake) -> SavedTake:
    return SavedTake(entry.take, entry.special, entry.marked, entry.kept)


def _sheet_of(saved: SavedTake, sheet: Sheet) -> Sheet:
    """The sheet that a saved take was made on, as far as one of today tells."""
    recipe, extent = saved.take.recipe, saved.take.extent or sheet.extent
    way = sheet.extent.way_to(extent)
    layers = () if recipe.get("start") is None or way is None else tuple(x.moved(*way) for x in sheet.layers)
    if recipe.get("start") is not None and not layers:
        # What it started from is no longer so; only that there was something counts.
        layers = (PictureLayer(0, "", np.zeros((1, 1, 4), np.uint8)),)
    before = sheet_before(recipe, extent.width, extent.height, layers)
    return replace(before, origin=(extent.x, extent.y), scale=extent.scale, last_key=sheet.last_key)


def _small(whole: np.ndarray) -> np.ndarray:
    """A picture for the exported page, at most 1024 pixels a side."""
    step = -(-max(whole.shape[:2]) // PAGE_SIDE)
    return np.ascontiguousarray(whole[::step, ::step])


def _fitted(pixels: np.ndarray, height: int, width: int) -> np.ndarray:
    return np.asarray(
        np.dstack([resize_mask(pixels[..., c].astype(np.float32) / 255, height, width) for c in range(3)]) * 255 + 0.5, np.uint8
    )
