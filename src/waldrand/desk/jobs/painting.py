"""Running passes: one, several in line, a setting at many values; looking at takes, keeping and re-rolling them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from PyQt6.QtCore import QPointF

from ...core.noise.noise import LARGEST_SEED
from ...core.noise.samplers import SAMPLERS
from ...core.packs import Pack
from ...core.passes.again import from_nearer, missed_again, rolled, with_seeds
from ...core.passes.plan import Mend, Plan, plan
from ...core.passes.recipe import request_from_json, sheet_before
from ...core.passes.request import METHODS, Request
from ...core.passes.run import Step
from ...core.passes.series import LADDER, Over, Variant, ladder, parse_over, vary
from ...core.passes.speed import Speed, measure
from ...core.picture.resample import resize_mask
from ...core.refused import Refused
from ...core.seen.found import Description, Found, as_elements, describe, find, thing_at
from ...core.values.element import Element, phrases
from ...core.values.masks import Mask
from ...core.values.sheet import Sheet
from ...files.contact import contact_sheet
from ...files.openraster import SavedTake
from ...files.pictures import write_png
from ..columns.pass_column import PassColumn
from ..columns.tray import Tray, TrayTake
from ..dialogs import AllTakes, Dialogs
from ..document import Document, Draft
from ..sheet_view.view import SheetView
from .runner import Job, Made, Runner, Work

#: Values a setting is shown at.
SHOWN_AT: dict[str, tuple[str, ...]] = {
    "guidance": ("1", "2", "3", "5"),
    "steps": ("6", "12", "20", "40"),
    "spacing": ("0.7", "1", "2", "4"),
    "method": METHODS,
    "sampler": SAMPLERS,
    "figures": ("on", "off"),
    "detail": ("0.8", "1", "1.2", "1.4"),
    "scene-weight": ("0.25", "0.5", "1", "2"),
}


class Painting:
    """The runner, the tray and the pass column, working together."""

    def __init__(
        self,
        document: Document,
        pack: Pack,
        view: SheetView,
        passes: PassColumn,
        tray: Tray,
        runner: Runner,
        dialogs: Callable[[], Dialogs],
    ) -> None:
        self.document, self.pack, self.view = document, pack, view
        self.passes, self.tray, self.runner, self._dialogs = passes, tray, runner, dialogs
        self.planned: Plan | None = None
        self.speed: Speed | None = None
        self.difference = False
        self._used: set[int] = set()
        self._dropped: list[list[tuple[int, TrayTake]]] = []
        self._job: Job | None = None
        passes.run_wanted.connect(self.run)
        passes.stop_wanted.connect(self.stop)
        passes.mend_wanted.connect(self.mend)
        passes.shown_wanted.connect(self.show_setting)
        passes.cancel_wanted.connect(runner.cancel)
        view.thing_wanted.connect(self.mask_thing)
        tray.shown.connect(self._show)
        tray.keep_wanted.connect(self.keep)
        tray.drop_wanted.connect(self.drop_current)
        tray.seed_wanted.connect(self.use)
        tray.reroll_wanted.connect(self.reroll)
        tray.sheet_wanted.connect(self.show_all)
        runner.began.connect(self._began)
        runner.stepped.connect(self._stepped)
        runner.taken.connect(self._taken)
        runner.ended.connect(self._ended)
        runner.queued.connect(lambda: passes.show_queue([j.name for j in runner.waiting]))

    def say(self, text: str) -> None:
        self.passes.status.setText(text)

    # --- forecast

    def measure_speed(self) -> None:
        """Times the pack on this machine, once; a moment's work."""
        if self.speed is None and not self.runner.running:
            self.speed = measure(self.pack)

    def refresh_forecast(self) -> None:
        """Plans the next pass anew and shows what it would do."""
        try:
            self.planned = plan(self.document.sheet, self.document.draft.request(), self.pack, self.speed)
            self.passes.show_forecast(self.planned)
            fitted = self.planned.request.kind == "inpaint"
            self.view.show_frame(self.planned.frame.rect if fitted else None, self.planned.mask_figure)
        except Refused as error:
            self.planned = None
            self.passes.show_forecast(None, str(error))
            self.view.show_frame(None)
        self.tray.check_layout(self.document.sheet)

    def mend(self, mend: Mend) -> None:
        """Puts right what a warning is about: one undoable edit."""
        d = self.document.draft
        sheet, request = mend.apply(self.document.sheet, d.request())
        self.document.edit_both(sheet, _drafted(d, request), mend.label.lower())

    # --- running

    def run(self) -> None:
        """Runs the planned pass, or lines it up; the sheet stays free meanwhile."""
        self.view.finish_words()
        self.refresh_forecast()
        if self.planned is None:
            return
        p, takes = self.planned, self.document.draft.takes
        first = p.request.settings.seed
        if first + takes - 1 > LARGEST_SEED:
            self.say(f"The last take's seed would be larger than {LARGEST_SEED}: begin with a smaller one.")
            return
        kind = p.request.kind + (f" at {p.request.settings.strength:.2f}" if self.document.sheet.has_picture else "")
        works = tuple(Work(p, first + i, again=self.document.draft.again) for i in range(takes))
        self.submit(Job(f"{kind}, {takes} take{'' if takes == 1 else 's'} from seed {first}", works))

    def submit(self, job: Job) -> None:
        if not self.runner.running:
            self.tray.rest()
        self.runner.submit(job, self.pack)

    def stop(self) -> None:
        self.runner.stop()

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
        what = f"drop {len(entries)} take" + ("s" if len(entries) > 1 else "")
        self.document.act(what, partial(self.tray.take_away, entries), partial(self.tray.put_back, places))

    def bring_back(self) -> None:
        """Puts what was dropped last, and is still gone, back in its place."""
        while self._dropped:
            places = [(row, e) for row, e in self._dropped.pop() if e not in self.tray.takes]
            if places:
                away = partial(self.tray.take_away, [e for _, e in places])
                self.document.act("bring back takes", partial(self.tray.put_back, places), away)
                return

    def forget(self) -> None:
        """Stops all; takes still on their way belong to a sheet that is left."""
        self._dropped.clear()
        self._job = None
        self.runner.waiting.clear()
        self.runner.stop()
        self.runner.wait()
        self.passes.show_queue([])

    def _began(self, job: Job) -> None:
        self._job = job
        self.passes.show_running(True)

    def _stepped(self, step: Step, work: Work) -> None:
        if self._job is None or work not in self._job.works or not self.runner.running:
            return
        self.passes.show_step(step)
        self.tray.show_forming(step.preview[..., :3], f"{work.label or 'forming'}\nseed {work.seed}")
        if self.tray.current is None and work.plan.sheet.rect == self.document.sheet.rect:
            self.view.show_overlay(step.preview, step.frame)

    def _taken(self, made: Made) -> None:
        if self._job is None or made.work not in self._job.works:
            return
        if self.speed is not None and made.work.plan.calls:
            # What this machine really did teaches the forecast: against what is believed now, not when the pass was planned.
            self.speed = self.speed.corrected(made.work.plan.expected(self.speed), made.seconds)
        self._used.add(made.take.seed)
        entry = TrayTake(made.take, made.plan, made.work.label, scores=made.scores)
        self.tray.add(entry, show=self.tray.current is None)
        self.tray.check_layout(self.document.sheet)

    def _ended(self, message: str) -> None:
        self.runner.wait()
        self.tray.show_forming(None)
        self._job = None
        self.say(message)
        if self.runner.waiting:
            self.runner.go_on(self.pack)
            return
        self.passes.show_running(False)
        if self.tray.current is None:
            self._show(None)

    # --- series

    def _submit_variants(self, variants: list[Variant], name: str) -> None:
        plans = [plan(v.sheet, v.request, self.pack, self.speed) for v in variants]
        works = tuple(Work(p, v.request.settings.seed, v.label) for p, v in zip(plans, variants, strict=True))
        self.submit(Job(f"{name}, {len(works)} takes", works))
        self.say("Press on the takes and move sideways to scrub through them; U takes over the shown one's settings.")

    def _try_variants(self, make: Callable[[Sheet, Request], list[Variant]], name: str) -> None:
        self.view.finish_words()
        try:
            self._submit_variants(make(self.document.sheet, self.document.draft.request()), name)
        except Refused as error:
            self.say(str(error))

    def show_setting(self, what: str) -> None:
        """What a setting does: the pass at several of its values, at one seed."""
        if what == "strength":
            self.run_ladder()
            return
        self._try_overs([Over(what, SHOWN_AT[what])], what.replace("-", " "))

    def _try_overs(self, overs: list[Over], name: str) -> None:
        self._try_variants(lambda s, r: [v for row in vary(s, r, overs) for v in row], name)

    def run_ladder(self) -> None:
        """The pass at rising strengths, at one seed."""
        self._try_variants(lambda s, r: ladder(s, r, LADDER), "ladder")

    def vary(self) -> None:
        """One or two settings at typed values, side by side."""
        text = self._dialogs().words("Try settings", "A setting and its values, or two apart by a semicolon:", "guidance=2,4; steps=10,20")
        if text:
            try:
                self._try_overs([parse_over(o) for o in text.split(";")], "settings")
            except Refused as error:
                self.say(str(error))

    def try_other_words(self) -> None:
        """Other words in a phrase's place, side by side."""
        sheet, key = self.document.sheet, self.view.selected
        said = phrases(sheet.scene.words) if key is None else phrases(sheet.element(key).words)
        dialogs = self._dialogs()
        phrase = dialogs.words("Try other words", "Which words shall change?", said[0] if said else "")
        others = phrase and dialogs.words("Try other words", f"In place of “{phrase}”, apart by commas:")
        if phrase and others:
            values = tuple(v.strip() for v in others.split(",") if v.strip())
            self._try_overs([Over(phrase.strip(), (phrase.strip(), *values))], f"words for “{phrase}”")

    # --- takes

    def _show(self, entry: TrayTake | None) -> None:
        failed = [s.says for s in entry.scores if s.says] if entry is not None else []
        if failed:
            self.say(" ".join((*failed, "Shift+T gives what missed another chance.")))
        if entry is None:
            self.view.show_overlay(None, self.document.sheet.rect)
            return
        take, partner = entry.take, self.tray.partner
        pixels = take.to_patch(0, "").shown()
        if self.difference:
            pixels = np.dstack([self._apart(entry), pixels[..., 3]])
        self.view.show_overlay(pixels, take.frame)
        if partner is not None and partner is not entry and not self.difference:
            self.view.show_wipe(partner.take.to_patch(0, "").shown(), partner.take.frame)

    def _apart(self, entry: TrayTake) -> np.ndarray:
        """How a take differs from the one compared with, or from the sheet before it: grey where it does not."""
        take, partner = entry.take, self.tray.partner
        if partner is not None and partner is not entry and partner.take.frame == take.frame:
            other = partner.take.pixels
        else:
            other = self.document.sheet.flatten(take.frame)[..., :3]
        apart = take.pixels.astype(np.int16) - other
        return np.asarray(np.clip(128 + 2 * apart, 0, 255), np.uint8)

    def show_difference(self, on: bool) -> None:
        self.difference = on
        self._show(self.tray.current)

    def keep(self, part: bool = False) -> None:
        """Keeps the shown take as a patch; with `part` only what the mask covers."""
        entry, sheet = self.tray.current, self.document.sheet
        if entry is None:
            self.say("There is no take to keep: run a pass, or step to a take.")
            return
        take = entry.take
        if take.frame.intersect(sheet.rect) != take.frame:
            self.say("That take belongs to a sheet of another size.")
            return
        name = str(take.recipe["words"]) or f"{take.recipe['kind']}, seed {take.seed}"
        patch = take.to_patch(sheet.next_key(), name)
        if part:
            if sheet.mask is None or sheet.mask.empty:
                self.say("Paint with the mask brush (M) over the part of the take to keep, then press Shift+K.")
                return
            region = np.minimum(patch.region, np.where(sheet.mask.read(take.frame) > 127, 255, 0).astype(np.uint8))
            if not region.any():
                self.say("The mask does not meet the take: nothing would be kept.")
                return
            sheet = replace(sheet, mask=None)
            patch = replace(patch, name=f"part of {name}", region=region, feather=8.0)
        self.document.edit(sheet.with_layer(patch), "keep part of the take" if part else "keep take")
        self.tray.mark_kept()
        self.tray.rest()

    def saved_takes(self) -> list[SavedTake]:
        """The tray, to be saved with the sheet."""
        return [SavedTake(t.take, t.special, t.marked, t.kept) for t in self.tray.takes]

    def mark_saved(self, takes: Sequence[SavedTake]) -> None:
        saved = {s.take for s in takes}
        for t in self.tray.takes:
            t.saved = t.saved or t.take in saved

    def show_saved(self, takes: Sequence[SavedTake]) -> None:
        """Puts takes that were saved with the sheet back into the tray; one whose recipe cannot be read is left out, saying so."""
        sheet, lost = self.document.sheet, 0
        for saved in takes:
            try:
                recipe = saved.take.recipe
                before = sheet_before(recipe, sheet.width, sheet.height, () if recipe["start"] is None else sheet.layers)
                made = plan(before, request_from_json(recipe), self.pack, self.speed)
            except (Refused, KeyError, TypeError):
                lost += 1
                continue
            self._used.add(saved.take.seed)
            self.tray.add(TrayTake(saved.take, made, saved.special, saved.kept, saved.marked, saved=True), show=False)
        self.tray.check_layout(sheet)
        if lost:
            self.say(f"{lost} take{' was' if lost == 1 else 's were'} left out: made on a sheet that is no longer so.")

    def use(self) -> None:
        """The next pass takes over the shown take's seed, settings and strength."""
        entry = self.tray.current
        if entry is not None:
            request = entry.plan.request
            settings = replace(request.settings, seed=entry.take.seed)
            self.document.set_draft(_drafted(self.document.draft, replace(request, settings=settings)), "take over settings", "")

    def use_for_chosen(self) -> None:
        """The chosen elements keep the noise they have in the shown take, whatever seed comes next."""
        entry, sheet = self.tray.current, self.document.sheet
        if entry is None or not self.view.selection:
            self.say("Step to a take, and choose the elements that shall keep their noise.")
            return
        had = {e.key: e.seed for e in entry.plan.sheet.elements}
        names = []
        for e in sheet.elements:
            if e.key in self.view.selection and e.key in had:
                own = had[e.key]
                sheet = sheet.with_element(replace(e, seed=entry.take.seed if own is None else own))
                names.append(f"“{e.name}”")
        if names:
            self.document.edit(sheet, f"seed of {', '.join(names)}")

    def mask_by_words(self) -> None:
        """The mask becomes what is found of some words in the picture that is seen."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say("There is no picture to look in yet.")
            return
        text = self._dialogs().words("Mask by words", "What shall be masked?")
        if not text:
            return
        try:
            found = find(sheet.flatten(), text, self.pack)
        except Refused as error:
            self.say(str(error))
            return
        if found.box is None:
            self.say(f"“{text}” was not found in the picture.")
            return
        self._mask_found(found, found.mask)

    def mask_thing(self, at: QPointF) -> None:
        """The thing that is seen at a point is added to the mask."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say("There is no picture to look in yet.")
            return
        try:
            found = thing_at(sheet.flatten(), at.x(), at.y(), self.pack)
        except Refused as error:
            self.say(str(error))
            return
        if found is None:
            self.say("Nothing the model is sure of is seen there: paint the mask by hand.")
            return
        self._mask_found(found, found.mask if sheet.mask is None else np.maximum(sheet.mask.read(), found.mask))

    def _mask_found(self, found: Found, mask: np.ndarray) -> None:
        self.document.edit(replace(self.document.sheet, mask=Mask.from_array(mask)), f"mask “{found.phrase}”")
        self.say(f"“{found.phrase}” was found, {100 * found.confidence:.0f} % sure. Grow or paint the mask where it is too tight.")

    def _seen(self) -> Description | None:
        """What the picture shows; None when that cannot be told, which is said."""
        sheet = self.document.sheet
        if not sheet.has_picture:
            self.say("There is no picture to read words off yet.")
            return None
        try:
            d = describe(sheet.flatten(), self.pack)
        except Refused as error:
            self.say(str(error))
            return None
        if d.scene or d.things:
            return d
        self.say("Nothing the model knows was recognised.")
        return None

    def elements_seen(self) -> None:
        """Each thing that is seen in the picture becomes an element in a box; an empty scene gets the words of the whole."""
        d = self._seen()
        if d is None:
            return
        if not d.things:
            self.say("No thing the model knows was recognised.")
            return
        sheet = self.document.sheet
        new = as_elements(d, self.pack.info.elements, sheet.next_key())
        scene = sheet.scene if sheet.scene.words else replace(sheet.scene, words=", ".join(d.scene))
        self.document.edit(replace(sheet, elements=(*sheet.elements, *new), scene=scene), "elements of what is seen")
        self.say(f"Seen: {', '.join(e.name for e in new)}. Move or re-word them, then run at a strength.")

    def read_off_words(self) -> None:
        """The scene's words, read off the picture that is seen."""
        d = self._seen()
        if d is None:
            return
        sheet, words = self.document.sheet, ", ".join(dict.fromkeys((*d.scene, *(w for w, _, _ in d.things))))
        self.document.edit(replace(sheet, scene=replace(sheet.scene, words=words, emphasis=())), "words read off the picture")

    def next_seed(self, after: int) -> int:
        """The next seed no take here has used."""
        seed = after
        while True:
            seed = (seed + 1) % (LARGEST_SEED + 1)
            if seed not in self._used:
                return seed

    def reroll(self) -> None:
        """The shown take once more with another seed: inside the chosen elements alone, or the whole when none is chosen."""
        entry = self.tray.current
        if entry is None:
            self.say("Step to the take that shall be rolled again.")
            return
        request, sheet = entry.plan.request, entry.plan.sheet
        chosen = [e for e in sheet.elements if e.key in self.view.selection]
        if not chosen or request.kind == "inpaint":
            seed = self.next_seed(entry.take.seed)
            settings = replace(request.settings, seed=seed)
            again = plan(sheet, replace(request, settings=settings), self.pack, self.speed)
            self.submit(Job(f"re-roll, seed {seed}", (Work(again, seed, "re-rolled"),)))
            return
        self._roll_inside(entry, chosen)

    def reroll_missed(self) -> None:
        """The shown take with another chance for what missed: painted from nearer if it was not found, with other noise if it strayed."""
        entry = self.tray.current
        if entry is None:
            self.say("Step to the take of which what missed shall have another chance.")
            return
        missed = {s.key for s in entry.scores if not s.landed}
        if not entry.scores:
            self.say("Nothing in this take was judged: its pass has no elements whose words the finder knows.")
        elif not missed:
            self.say("Everything that was judged landed in this take.")
        else:
            seeds = self._fresh_seeds(entry, missed)
            self._submit_changed(entry, *missed_again(entry.plan, entry.scores, seeds), "try again", seeds)

    def paint_nearer(self) -> None:
        """The chosen elements of the shown take painted over, each in a frame of its own, so that small things get many pixels."""
        entry = self.tray.current
        chosen = set() if entry is None else {e.key for e in entry.plan.sheet.elements} & set(self.view.selection)
        if entry is None or not chosen or entry.plan.request.kind == "inpaint":
            self.say("Step to a take of the whole, and choose the elements that shall be painted from nearer.")
            return
        seeds = self._fresh_seeds(entry, chosen)
        self._submit_changed(entry, entry.plan.sheet, from_nearer(entry.plan.request, seeds), "from nearer", seeds)

    def _roll_inside(self, entry: TrayTake, chosen: Sequence[Element]) -> None:
        seeds = self._fresh_seeds(entry, {e.key for e in chosen})
        self._submit_changed(entry, *rolled(entry.plan.sheet, entry.plan.request, seeds), "re-roll", seeds)

    def _fresh_seeds(self, entry: TrayTake, keys: Collection[int]) -> dict[int, int]:
        """By key, for each element one that no take here has used."""
        seeds: dict[int, int] = {}
        for e in entry.plan.sheet.elements:
            if e.key in keys:
                seeds[e.key] = self.next_seed(e.seed if e.seed is not None else entry.take.seed)
                self._used.add(seeds[e.key])
        return seeds

    def _submit_changed(self, entry: TrayTake, sheet: Sheet, request: Request, what: str, keys: Collection[int]) -> None:
        """A take once more with something else in some elements; noise that is theirs from now on is the document's too."""
        document = self.document.sheet
        names = ", ".join(f"“{e.name}”" for e in sheet.elements if e.key in keys)
        settings = replace(request.settings, seed=entry.take.seed)
        request = replace(request, settings=settings)
        try:
            again = plan(sheet, request, self.pack, self.speed)
        except Refused as error:
            self.say(str(error))
            return
        new = {e.key: e.seed for e, old in zip(sheet.elements, entry.plan.sheet.elements, strict=True) if e.seed != old.seed}
        changed = {e.key: s for e in document.elements if (s := new.get(e.key)) is not None}
        self.document.edit_both(with_seeds(document, changed), _drafted(self.document.draft, request), f"{what} {names}")
        self.submit(Job(f"{what} {names}", (Work(again, entry.take.seed, f"{what} {names}"),)))

    def show_all(self) -> None:
        """All takes side by side."""
        if not self.tray.takes:
            self.say("There are no takes yet: run a pass.")
            return
        pictures = [(self.whole(t), f"{t.label}\n{t.settings}") for t in self.tray.takes]
        dialog = AllTakes(pictures, self.tray.window())
        dialog.exported.connect(lambda: self._export_page(pictures))
        if self._dialogs().show(dialog) and dialog.list.currentRow() >= 0:
            self.tray.show_entry(self.tray.takes[dialog.list.currentRow()])

    def whole(self, entry: TrayTake) -> np.ndarray:
        """The sheet as the take would leave it, at most 1024 pixels a side."""
        whole = entry.take.laid_on(entry.plan.sheet, "take").flatten()[..., :3]
        step = -(-max(whole.shape[:2]) // 1024)
        return np.ascontiguousarray(whole[::step, ::step])

    def _export_page(self, pictures: list[tuple[np.ndarray, str]]) -> None:
        path = self._dialogs().save_path("Export page", "takes.png", "PNG picture (*.png)", ".png")
        if path is None:
            return
        h, w = pictures[0][0].shape[:2]
        same = [(p if p.shape[:2] == (h, w) else _fitted(p, h, w), label.replace("\n", ", ")) for p, label in pictures]
        try:
            write_png(path, contact_sheet(same, min(len(same), 4)))
        except Refused as error:
            self._dialogs().tell(str(error))
            return
        self.say(f"Exported {path.name}.")


def _fitted(pixels: np.ndarray, height: int, width: int) -> np.ndarray:
    return np.asarray(
        np.dstack([resize_mask(pixels[..., c].astype(np.float32) / 255, height, width) for c in range(3)]) * 255 + 0.5, np.uint8
    )


def _drafted(draft: Draft, request: Request) -> Draft:
    """The draft that asks for a request."""
    own = replace(draft, kind=request.kind, settings=replace(request.settings, strength=draft.settings.strength))
    if request.kind != "compose":
        own = replace(own, words=request.words, avoid=request.avoid)
    return own.with_strength(request.settings.strength)
