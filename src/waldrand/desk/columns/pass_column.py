"""The next pass: its kind and settings, what it will do, and the button that runs it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from ...core.noise.noise import LARGEST_SEED
from ...core.packs import Pack
from ...core.passes.kinds import offered_kinds
from ...core.passes.listed import Listed
from ...core.passes.plan import Plan
from ...core.passes.settings import PassSettings
from ...core.passes.watch import Step
from ...core.values.layers import LINES
from ...core.worded import worded
from ..document import Document
from ..draft import MOST_AGAIN, MOST_TAKES, Draft
from ..look.look import Look
from .fold import Fold
from .foot import Foot
from .forecast import Forecast, escaped
from .setting_fields import FieldRow, field_row
from .tile_changes import TileChanges
from .widgets import heading, hint, labelled, scrolled, show_number, small_button, whole_number

#: Rows of settings, in their order: fields of passes, and what belongs to the window alone.
ROWS = (
    "sentence",
    "parts",
    "left_out",
    "words",
    "avoid",
    "sides",
    "strength",
    "texture",
    "takes",
    "again",
    "small_nearer",
    "ink",
    "figures",
    "sketches",
    "grounds",
    "places",
    "weather",
    "seed",
    "steps",
    "guidance",
    "drawing_guidance",
    "method",
    "sampler",
)
FINE_ROWS = ("spacing", "detail", "margin", "carry_detail", "paper")
#: What an artist touches; the rest is a fold away.
FIRST = ("sentence", "parts", "found", "words", "sides", "strength", "texture", "takes", "finer", "ink")
#: What stands beside a row where it is not the field's own label.
LABELS = {
    "small_nearer": "finer",
    "margin": "context",
    "carry_detail": "keep",
    "paper": "paper",
    "sketches": "sketches",
    "grounds": "grounds",
    "places": "places",
    "weather": "weather",
    "quick": "quick",
    "tile_overlap": "overlaps",
}
KINDS_A_ROW = 2
#: Words that count while they are typed.
TYPED = ("sentence", "words", "avoid")
#: Settings that can be asked what they do.
ASKABLE = (
    *("strength", "steps", "guidance", "drawing_guidance", "method", "sampler", "spacing"),
    *("figures", "grounds", "places", "detail", "ink"),
)


class PassColumn(QWidget):
    """Signals: run_wanted(), stop_wanted(), about_wanted(an element's key, or which words), mend_wanted(Mend), shown_wanted(a setting),
    cancel_wanted(place in the queue), foreseen(Plan, or None where no pass can run)."""

    run_wanted = pyqtSignal()
    stop_wanted = pyqtSignal()
    about_wanted = pyqtSignal(object)
    mend_wanted = pyqtSignal(object)
    shown_wanted = pyqtSignal(str)
    cancel_wanted = pyqtSignal(int)
    foreseen = pyqtSignal(object)

    def __init__(self, document: Document, pack: Pack | None = None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document, self._pack = document, pack
        self.kinds: dict[str, QToolButton] = {}
        self.askers: dict[str, QToolButton] = {}
        self.takes = whole_number(1, MOST_TAKES, worded("How many takes, with rising seeds."), worded("takes"))
        self.again = whole_number(
            0,
            MOST_AGAIN,
            worded("How often, in each take, what missed its outline gets another chance by itself, painted from nearer. 0: not."),
            worded("again"),
        )
        self.fresh = QToolButton()
        self.fresh.setText(worded("next"))
        self.fresh.setToolTip(worded("Go on to seeds not yet used by these takes (N)"))
        self.tile_changes = TileChanges()
        self.mask_hint = hint(worded("Paint the mask on the sheet: press M, then drag. X turns the brush into an eraser."))
        plain = PassSettings()
        self._usual = (
            plain if pack is None else replace(plain, steps=pack.info.steps, guidance=pack.info.guidance, spacing=pack.info.spacing)
        )
        self._rows = self._fields()
        self._named()
        self._forecast, self._foot = Forecast(), Foot()
        self.forecast, self.warnings = self._forecast.sentences, self._forecast.warnings
        self.run, self.stop, self.status, self.queue = self._foot.run, self._foot.stop, self._foot.status, self._foot.queue
        self._lay()
        self._connect()
        self.refresh()

    # --- building

    def _fields(self) -> dict[str, FieldRow]:
        """A row for each field of any kind of pass; rectangles are set on the sheet."""
        fields = self._fields_of = {name: f for kind in offered_kinds() for name, f in kind.fields().items() if f.read != "box" and f.label}
        order = [*(n for n in (*ROWS, *FINE_ROWS) if n in fields), *(n for n in fields if n not in (*ROWS, *FINE_ROWS))]
        usual = {"spacing": 2.0 if self._pack is None else self._pack.info.spacing}
        return {name: field_row(name, fields[name], self._pack, usual.get(name)) for name in order}

    def _named(self) -> None:
        """The rows under names of their own, for whoever asks for one."""
        rows = {name: row.field for name, row in self._rows.items()}
        self.words, self.avoid, self.strength, self.seed = rows["words"], rows["avoid"], rows["strength"], rows["seed"]
        self.steps, self.guidance, self.method, self.sampler = rows["steps"], rows["guidance"], rows["method"], rows["sampler"]
        self.drawing_guidance = rows["drawing_guidance"]
        self.spacing, self.detail, self.context = rows["spacing"], rows["detail"], rows["margin"]
        self.nearer, self.figures, self.sides = rows["small_nearer"], rows["figures"], rows["sides"]
        self.sketches, self.quick, self.ink, self.paper = rows["sketches"], rows["quick"], rows["ink"], rows["paper"]
        self.grounds, self.places, self.drawn = rows["grounds"], rows["places"], rows["drawn"]
        self.weather = rows["weather"]
        self.sentence = rows["sentence"]
        self.parts, self.found = rows["parts"], rows["left_out"]

    def _lay(self) -> None:
        layout = QVBoxLayout()
        layout.addWidget(heading(worded("Pass")))
        layout.addLayout(self._kind_rows())
        layout.addWidget(self.mask_hint)
        first, rest = self._settings_grids()
        layout.addLayout(first)
        self.fold = Fold(rest)
        layout.addWidget(self.fold)
        layout.addWidget(self.tile_changes)
        layout.addWidget(heading(worded("Forecast")))
        # What looks wrong is not to be scrolled to.
        layout.addWidget(self.warnings)
        layout.addWidget(self.forecast)
        layout.addStretch(1)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scrolled(layout), 1)
        outer.addWidget(self._foot)

    def _kind_rows(self) -> QGridLayout:
        group, rows = QButtonGroup(self), QGridLayout()
        rows.setSpacing(3)
        for i, kind in enumerate(offered_kinds()):
            b = QToolButton()
            b.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            b.setObjectName("tool")
            b.setText(worded(kind.title))
            b.setToolTip(worded(kind.tip))
            b.setCheckable(True)
            group.addButton(b)
            rows.addWidget(b, i // KINDS_A_ROW, i % KINDS_A_ROW)
            b.clicked.connect(lambda _, k=kind.name: self._set(kind=k))
            self.kinds[kind.name] = b
        return rows

    def _settings_grids(self) -> tuple[QGridLayout, QGridLayout]:
        """The rows of what is touched, and of the rest."""
        shown: dict[str, QWidget] = {}
        of_label: dict[str, str] = {}
        for name, row in self._rows.items():
            label = LABELS.get(name, row.label)
            shown[label], of_label[label] = self._seed_row() if name == "seed" else row.field, name
            if name == "strength":
                shown |= {"takes": self.takes, "again": self.again}
        self._labels: dict[str, QLabel] = {}
        first, rest = QGridLayout(), QGridLayout()
        for grid, names in ((first, [n for n in shown if n in FIRST]), (rest, [n for n in shown if n not in FIRST])):
            grid.setVerticalSpacing(6)
            grid.setHorizontalSpacing(5)
            grid.setColumnStretch(1, 1)
            self._labels |= labelled(grid, *((name, shown[name]) for name in names))
            for i, name in enumerate(names):
                if of_label.get(name) in ASKABLE:
                    grid.addWidget(self._asker(name, of_label[name]), i, 2)
        return first, rest

    def _seed_row(self) -> QWidget:
        made = QWidget()
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.seed, 1)
        row.addWidget(self.fresh)
        return made

    def _asker(self, label: str, name: str) -> QToolButton:
        b = small_button("?", worded("What does {0} do? Paints this pass at several values with the same seed, to compare", label))
        b.setObjectName("tiny")
        b.clicked.connect(partial(self.shown_wanted.emit, name))
        self.askers[label] = b
        return b

    def _connect(self) -> None:
        for name, row in self._rows.items():
            row.changed.connect(partial(self._change, name))
        for name in TYPED:
            self._rows[name].field.textChanged.connect(self._typing)
        self.takes.valueChanged.connect(lambda v: self._set(takes=v))
        self.again.valueChanged.connect(lambda v: self._set(again=v))
        self.fresh.clicked.connect(self.next_seeds)
        self._foot.run.clicked.connect(self.run_wanted)
        self._foot.stop.clicked.connect(self.stop_wanted)
        self._foot.cancel_wanted.connect(self.cancel_wanted)
        self._forecast.about_wanted.connect(self.about_wanted)
        self._forecast.mend_wanted.connect(self.mend_wanted)
        self.document.changed.connect(lambda *_: self.refresh())
        self.document.replaced.connect(self.refresh)

    # --- changing

    def _set(self, **values: object) -> None:
        name = next(iter(values))
        new = replace(self.document.draft, **values)  # type: ignore[arg-type]
        self.document.set_draft(new, worded("{0} of the pass", name), f"draft {name}")

    def _change(self, name: str, value: object) -> None:
        if name not in self.document.draft.fields:
            # A field that is hidden because the kind of pass changed says what it holds, too late.
            return
        # Numbers turned step by step are one edit; words said twice, or put into another order, are two.
        merge = "" if self._fields_of[name].read in ("words", "order", "numbers") else worded("draft {0}", name)
        self.document.set_draft(self.document.draft.with_value(name, value), worded("{0} of the pass", self._rows[name].label), merge)

    def _typing(self) -> None:
        draft = self.document.draft
        typed = {name: self._rows[name].field for name in TYPED if name in draft.fields}
        if any(field.hasFocus() for field in typed.values()):
            for name, field in typed.items():
                draft = draft.with_value(name, field.text().strip())
            self.document.would_be(draft=draft)

    def next_seeds(self) -> None:
        """Moves on to seeds that the last takes did not use."""
        d = self.document.draft
        self._change("seed", min(LARGEST_SEED, d.settings.seed + d.takes))

    # --- showing

    def refresh(self) -> None:
        """Shows the draft as it is."""
        d, kind = self.document.draft, self.document.draft.of_kind
        self.kinds[d.kind].setChecked(True)
        fields, finds = kind.fields(), self._pack is not None and self._pack.finder is not None
        for name, row in self._rows.items():
            if name in fields:
                row.show_value(d.value(name))
            self._show_row(LABELS.get(name, row.label), row.field, name in fields and self._has_say(name))
        for box, v in ((self.takes, d.takes), (self.again, d.again)):
            show_number(box, v)
        self._show_row("again", self.again, finds and kind.hears_elements)
        self.fold.say(self._told(d))
        mask = self.document.sheet.mask
        self.mask_hint.setVisible(kind.masked and not kind.finds and (mask is None or mask.empty))

    def _told(self, d: Draft) -> str:
        """In a line what is set in the fold; what is not as the pack recommends stands out."""
        usual, s, fields = self._usual, d.settings, d.fields
        said = [worded("seed {0}", s.seed)]
        for name, plain in (("steps", usual.steps), ("guidance", usual.guidance), ("method", usual.method), ("sampler", usual.sampler)):
            text = (
                worded("{0} steps", s.steps)
                if name == "steps"
                else worded("guidance {0:g}", s.guidance)
                if name == "guidance"
                else self._choice(name)
            )
            said.append(f"<b>{text}</b>" if getattr(s, name) != plain else text)
        said += [
            f"<b>{self._rows[n].label} {getattr(s, n):g}</b>"
            for n in ("drawing_guidance", "spacing", "detail", "margin")
            if self._differs(n, d)
        ]
        said += [
            worded("<b>no {0}</b>", text)
            for n, text in (
                ("figures", "figures"),
                ("sketches", worded("sketches")),
                ("grounds", worded("grounds")),
                ("places", worded("places")),
                ("weather", worded("weather")),
                ("carry_detail", worded("fine detail")),
                ("paper", worded("paper")),
            )
            if self._differs(n, d)
        ]
        said += [worded("<b>quick</b>")] if s.quick else []
        said += [worded("<b>avoids {0}</b>", escaped(d.avoid))] if d.avoid and "avoid" in fields else []
        said += [worded("<b>again {0}</b>", d.again)] if d.again and d.of_kind.hears_elements else []
        return " · ".join(said)

    def _choice(self, name: str) -> str:
        """The chosen one of some words, as it is called."""
        return str(self._rows[name].field.currentText())

    def _differs(self, name: str, d: Draft) -> bool:
        value = getattr(d.settings, name)
        return name in d.fields and value is not None and value != getattr(self._usual, name)

    def _has_say(self, name: str) -> bool:
        """Whether a setting of this kind of pass has a say just now."""
        if name == "strength":
            # Composing on an empty sheet starts from nothing: there is no strength to choose.
            return self.document.sheet.has_picture or "words" in self.document.draft.fields
        if name == "figures":
            return self._pack is not None and self._pack.figures is not None and self.document.draft.settings.method == "steer"
        if name == "sketches":
            return self._pack is not None and "lines" in self._pack.info.capabilities and self._has_say("figures")
        if name == "grounds":
            can = self._pack is not None and self._pack.grounds is not None and "lines" in self._pack.info.capabilities
            return can and self.document.draft.settings.method == "steer"
        if name == "places":
            return self._pack is not None and self._pack.places is not None and self.document.draft.settings.method == "steer"
        if name == "ink":
            # Where nothing is drawn there is nothing to go over.
            return bool(self.document.sheet.guides(LINES)) or (self._has_say("sketches") and self.document.draft.settings.sketches)
        if name == "drawing_guidance":
            # Without guidance nothing leads.
            s = self.document.draft.settings
            return self._pack is not None and "lines" in self._pack.info.capabilities and not s.quick and s.guidance != 1
        if name in ("steps", "guidance"):
            # A quick pass has its own.
            return not self.document.draft.settings.quick
        if name == "left_out":
            return bool(self.found.count())
        if name == "paper":
            return self._pack is not None and bool(self._pack.info.grains or self._pack.info.inks or self._pack.info.evens)
        if name == "weather":
            return self._pack is not None and bool(self._pack.info.falls)
        if name == "carry_detail":
            return self.document.sheet.has_picture
        return True

    def _show_row(self, label: str, field: QWidget, shown: bool) -> None:
        field.setVisible(shown)
        self._labels[label].setVisible(shown)
        if label in self.askers:
            self.askers[label].setVisible(shown)

    def show_found(self, parts: Sequence[Listed]) -> None:
        """The parts that the next pass would paint, or leaves out."""
        self.found.show_parts(parts)
        self._show_row(self._rows["left_out"].label, self.found, bool(parts))

    def show_forecast(self, plan: Plan | None, problem: str = "") -> None:
        """What the next pass will do, or why it cannot run."""
        self.run.setEnabled(plan is not None)
        self._forecast.show_plan(plan, problem, self.document.draft, self._pack)
        self.foreseen.emit(plan)

    def set_look(self, look: Look) -> None:
        """Links in the look's own colour."""
        self._forecast.set_look(look)
        self._foot.set_look(look)

    def show_queue(self, names: list[str]) -> None:
        """The passes that wait, each with a link that cancels it."""
        self._foot.show_queue(names)

    def show_running(self, running: bool) -> None:
        self._foot.show_running(running)

    def show_step(self, step: Step) -> None:
        self._foot.show_step(step)
