"""The next pass: its kind and settings, what it will do, and the button that runs it."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...core.noise.noise import LARGEST_SEED
from ...core.noise.samplers import SAMPLERS
from ...core.packs import Pack
from ...core.passes.plan import Mend, Plan
from ...core.passes.request import LEAST_DETAIL, METHODS, MOST_DETAIL, MOST_GUIDANCE, MOST_STEPS, Kind
from ...core.passes.run import Step
from ..document import Document
from ..look.look import Look
from .widgets import Dial, heading, hint, labelled, number, scrolled, show_checked, show_number, small_button, whole_number
from .words_field import WordsField

KINDS: tuple[tuple[Kind, str, str], ...] = (
    ("compose", "Compose", "Paint the whole sheet from its scene and elements."),
    ("inpaint", "Inpaint", "Repaint only what the mask covers; everything else stays bit for bit."),
    ("rework", "Rework", "Repaint the whole picture at a strength, so that its parts belong together."),
)
METHOD_NAMES = {"steer": "steered", "blend": "blended", "text": "text only"}
SAMPLER_NAMES = {
    "second": "second order",
    "first": "first order",
    "heun": "Heun",
    "ancestral": "ancestral",
    "ancestral-second": "ancestral, second order",
}


#: Settings that can be asked what they do.
ASKABLE = ("strength", "steps", "guidance", "method", "sampler", "spacing", "figures", "detail")


class PassColumn(QWidget):
    """Signals: run_wanted(), stop_wanted(), about_wanted(an element's key, or which words), mend_wanted(Mend), shown_wanted(a setting),
    cancel_wanted(place in the queue)."""

    run_wanted = pyqtSignal()
    stop_wanted = pyqtSignal()
    about_wanted = pyqtSignal(object)
    mend_wanted = pyqtSignal(object)
    shown_wanted = pyqtSignal(str)
    cancel_wanted = pyqtSignal(int)

    def __init__(self, document: Document, pack: Pack | None = None) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document = document
        self.kinds: dict[str, QToolButton] = {}
        group, row = QButtonGroup(self), QHBoxLayout()
        row.setSpacing(4)
        for kind, text, tip in KINDS:
            b = QToolButton()
            b.setObjectName("tool")
            b.setText(text)
            b.setToolTip(tip)
            b.setCheckable(True)
            b.setAccessibleName(text)
            group.addButton(b)
            row.addWidget(b, 1)
            b.clicked.connect(lambda _=False, k=kind: self._set(kind=k))
            self.kinds[kind] = b
        self.words = WordsField(
            "what is wanted there", "Words for this pass alone. Empty: the surroundings are continued.", "pass words", pack
        )
        self.avoid = WordsField("not wanted", "Words this pass leads away from.", "pass avoid words", pack)
        self.strength = Dial(
            "Denoise strength: 0 keeps the picture, about 0.3 unites it, 0.6 repaints in place, 1 starts anew.", "denoise strength"
        )
        self.takes = whole_number(1, 16, "How many takes, with rising seeds.", "takes")
        self.again = whole_number(
            0, 9, "How often, in each take, what missed its outline gets another chance by itself, painted from nearer. 0: not.", "again"
        )
        self.nearer = QCheckBox("small things")
        self.nearer.setToolTip(
            "Paint each small thing once more from nearer, in a frame of its own, so that it gets many pixels. "
            "Finer, and about as long again for each. Ctrl+T does it for chosen ones."
        )
        self.nearer.setAccessibleName("from nearer")
        self.figures = QCheckBox("shapes of things")
        self.figures.setToolTip(
            "Fit the shape of what is named into rectangles, ellipses and masks that only say where, wherever the picture is painted anew. "
            "Another seed stands or looks another way."
        )
        self.figures.setAccessibleName("figures")
        self.seed = whole_number(0, LARGEST_SEED, "Seed of the first take. The same seed and settings paint the same picture.", "seed")
        self.fresh = QToolButton()
        self.fresh.setText("next")
        self.fresh.setToolTip("Go on to seeds not yet used by these takes (N)")
        self.steps = whole_number(1, MOST_STEPS, "Steps at full strength: more is slower, about 20 is enough.", "steps")
        self.guidance = number(
            0, MOST_GUIDANCE, 0.25, 2, "Guidance: how strictly words are followed. 1 to 4 is usual; 1 is quickest.", "guidance"
        )
        self.method = QComboBox()
        self.method.setToolTip(
            "Steered: each thing inside its outline. Blended: a prediction for each element, slower, for packs that cannot steer. "
            "Text only: all words in one prompt, outlines ignored, to compare."
        )
        self.method.setAccessibleName("method")
        for m in METHODS:
            self.method.addItem(METHOD_NAMES[m], m)
        self.sampler = QComboBox()
        self.sampler.setToolTip(
            "How noise levels are stepped through. Second order needs few steps; Heun is as exact at twice the cost; ancestral ones draw "
            "fresh noise at each step, which mends what earlier steps got wrong, and more steps give another picture."
        )
        self.sampler.setAccessibleName("sampler")
        for combo in (self.method, self.sampler):
            combo.setMinimumWidth(60)
            combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for s in SAMPLERS:
            self.sampler.addItem(SAMPLER_NAMES[s], s)
        self.spacing = number(0.1, 20, 0.25, 2, "Spacing of noise levels: above 1 more steps go to the rough beginning.", "spacing")
        self.detail = number(
            LEAST_DETAIL,
            MOST_DETAIL,
            0.1,
            2,
            "Detail: how finely the pass is computed, 1 as the model does best. More makes finer things where figures or outlines say what "
            "stands where, and takes longer; from words alone it makes more things.",
            "detail",
        )
        self.context = number(0, 10, 0.25, 2, "Context: how much round the mask is looked at, in shares of its longer side.", "context")
        self._finds = pack is not None and pack.finder is not None
        self._has_figures = pack is not None and pack.figures is not None
        self._usual_spacing = 2.0 if pack is None else pack.info.spacing
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        seed_row = QWidget()
        seeds = QHBoxLayout(seed_row)
        seeds.setContentsMargins(0, 0, 0, 0)
        seeds.addWidget(self.seed, 1)
        seeds.addWidget(self.fresh)
        self._labels = labelled(
            grid,
            ("words", self.words),
            ("avoid", self.avoid),
            ("strength", self.strength),
            ("takes", self.takes),
            ("again", self.again),
            ("nearer", self.nearer),
            ("figures", self.figures),
            ("seed", seed_row),
            ("steps", self.steps),
            ("guidance", self.guidance),
            ("method", self.method),
            ("sampler", self.sampler),
            ("spacing", self.spacing),
            ("detail", self.detail),
            ("context", self.context),
        )
        self.askers: dict[str, QToolButton] = {}
        for row_number, name in enumerate(self._labels):
            if name in ASKABLE:
                b = small_button("?", f"What does {name} do? Paints this pass at several values with the same seed, to compare")
                b.clicked.connect(lambda _=False, n=name: self.shown_wanted.emit(n))
                grid.addWidget(b, row_number, 2)
                self.askers[name] = b
        self.forecast = QLabel()
        self.forecast.setWordWrap(True)
        self.forecast.setAccessibleName("forecast")
        self.warnings = QLabel()
        self.warnings.setWordWrap(True)
        self.warnings.setObjectName("warning")
        self.warnings.setAccessibleName("warnings")
        self.warnings.setTextFormat(Qt.TextFormat.RichText)
        self.warnings.linkActivated.connect(self._follow)
        self._mends: list[Mend] = []
        self._link = ""
        self._shown: tuple[Plan | None, str] = (None, "")
        self.queue = QLabel()
        self.queue.setWordWrap(True)
        self.queue.setAccessibleName("waiting passes")
        self.queue.setToolTip("Passes that run when this one is done.")
        self.queue.setTextFormat(Qt.TextFormat.RichText)
        self.queue.linkActivated.connect(lambda i: self.cancel_wanted.emit(int(i)))
        self.queue.hide()
        self.mask_hint = hint("Paint the mask on the sheet: press M, then drag. X turns the brush into an eraser.")
        self.run = QPushButton("Run")
        self.run.setObjectName("run")
        self.run.setToolTip("Run this pass (Ctrl+Return)")
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Stop; finished takes are kept (Escape)")
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.status = hint("")
        self.stop.hide()
        self.progress.hide()
        layout = QVBoxLayout()
        layout.addWidget(heading("Pass"))
        layout.addLayout(row)
        layout.addWidget(self.mask_hint)
        layout.addLayout(grid)
        layout.addWidget(heading("Forecast"))
        layout.addWidget(self.forecast)
        layout.addWidget(self.warnings)
        layout.addStretch(1)
        scroll = scrolled(layout)
        foot = QVBoxLayout()
        foot.setContentsMargins(10, 4, 10, 10)
        for w in (self.status, self.queue, self.progress):
            foot.addWidget(w)
        buttons_row = QHBoxLayout()
        buttons_row.addWidget(self.run, 1)
        buttons_row.addWidget(self.stop)
        foot.addLayout(buttons_row)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll, 1)
        outer.addLayout(foot)
        self.words.said.connect(lambda t: self._set(words=t))
        self.avoid.said.connect(lambda t: self._set(avoid=t))
        self.strength.turned.connect(lambda v: document.set_draft(document.draft.with_strength(v), "strength", "strength"))
        self.takes.valueChanged.connect(lambda v: self._set(takes=v))
        self.again.valueChanged.connect(lambda v: self._set(again=v))
        self.nearer.toggled.connect(lambda on: self._set(small_nearer=on))
        self.figures.toggled.connect(lambda on: self._tune(figures=on))
        self.seed.valueChanged.connect(lambda v: self._tune(seed=v))
        self.fresh.clicked.connect(self.next_seeds)
        self.steps.valueChanged.connect(lambda v: self._tune(steps=v))
        self.guidance.valueChanged.connect(lambda v: self._tune(guidance=v))
        self.spacing.valueChanged.connect(lambda v: self._tune(spacing=v))
        self.detail.valueChanged.connect(lambda v: self._tune(detail=v))
        self.context.valueChanged.connect(lambda v: self._tune(margin=v))
        self.method.currentIndexChanged.connect(lambda _: self._tune(method=self.method.currentData()))
        self.sampler.currentIndexChanged.connect(lambda _: self._tune(sampler=self.sampler.currentData()))
        self.run.clicked.connect(self.run_wanted)
        self.stop.clicked.connect(self.stop_wanted)
        document.changed.connect(lambda *_: self.refresh())
        document.replaced.connect(self.refresh)
        self.refresh()

    def _set(self, **values: object) -> None:
        name = next(iter(values))
        merge = "" if name in ("words", "avoid") else f"draft {name}"
        self.document.set_draft(replace(self.document.draft, **values), f"{name} of the pass", merge)  # type: ignore[arg-type]

    def _tune(self, **values: object) -> None:
        name, d = next(iter(values)), self.document.draft
        self.document.set_draft(replace(d, settings=replace(d.settings, **values)), name, f"draft {name}")  # type: ignore[arg-type]

    def next_seeds(self) -> None:
        """Moves on to seeds that the last takes did not use."""
        d = self.document.draft
        self._tune(seed=min(LARGEST_SEED, d.settings.seed + d.takes))

    def refresh(self) -> None:
        """Shows the draft as it is."""
        d, s = self.document.draft, self.document.draft.settings
        self.kinds[d.kind].setChecked(True)
        self.words.show_text(d.words)
        self.avoid.show_text(d.avoid)
        self.strength.show_value(dict(d.strengths)[d.kind])
        for box, v in (
            (self.takes, d.takes),
            (self.again, d.again),
            (self.seed, s.seed),
            (self.steps, s.steps),
            (self.guidance, s.guidance),
        ):
            show_number(box, v)
        show_number(self.spacing, s.spacing or self._usual_spacing)
        show_number(self.detail, s.detail)
        show_number(self.context, s.margin)
        show_checked(self.nearer, d.small_nearer)
        show_checked(self.figures, s.figures)
        for combo, value in ((self.method, s.method), (self.sampler, s.sampler)):
            combo.blockSignals(True)
            combo.setCurrentIndex(combo.findData(value))
            combo.blockSignals(False)
        own = d.kind != "compose"
        # Composing on an empty sheet starts from nothing: there is no strength to choose.
        for label, field, shown in (
            ("words", self.words, own),
            ("avoid", self.avoid, own),
            ("strength", self.strength, own or self.document.sheet.has_picture),
            ("context", self.context, d.kind == "inpaint"),
            ("again", self.again, self._finds and d.kind != "inpaint"),
            ("nearer", self.nearer, d.kind != "inpaint"),
            ("figures", self.figures, self._has_figures and s.method == "steer"),
        ):
            field.setVisible(shown)
            self._labels[label].setVisible(shown)
            if label in self.askers:
                self.askers[label].setVisible(shown)
        self.mask_hint.setVisible(d.kind == "inpaint" and (self.document.sheet.mask is None or self.document.sheet.mask.empty))

    def show_forecast(self, plan: Plan | None, problem: str = "") -> None:
        """What the next pass will do, or why it cannot run."""
        self._shown = (plan, problem)
        self.run.setEnabled(plan is not None)
        said = list(plan.sentences) if plan else [problem]
        if plan is not None and plan.seconds is not None and plan.steps:
            takes = self.document.draft.takes
            said.append(f"{spoken_time(plan.seconds * takes)} for {takes} take{'' if takes == 1 else 's'}, {plan.memory / 1e6:.0f} MB.")
            again = self.document.draft.again
            if again and self._finds and plan.request.kind != "inpaint" and plan.sheet.elements:
                said.append(f"What misses its outline gets up to {again} more pass{'' if again == 1 else 'es'} of its own.")
        self.forecast.setText(" ".join(said))
        lines = []
        self._mends = []
        for w in plan.warnings if plan else ():
            text = w.text.replace("&", "&amp;").replace("<", "&lt;")
            links = [f'<a {self._link} href="show:{w.about}">show</a>'] if w.about is not None else []
            if w.mend is not None:
                links.append(
                    f'<a {self._link} href="mend:{len(self._mends)}">{w.mend.label.replace("&", "&amp;").replace("<", "&lt;")}</a>'
                )
                self._mends.append(w.mend)
            lines.append(" ".join((f"• {text}", " · ".join(links))))
        self.warnings.setText("<br>".join(lines))
        self.warnings.setVisible(bool(lines))

    def set_look(self, look: Look) -> None:
        """Links in the look's own colour."""
        self._link = f'style="color: {look.link}"'
        self.show_forecast(self._shown[0], self._shown[1])

    def _follow(self, link: str) -> None:
        what, _, which = link.partition(":")
        if what == "show":
            self.about_wanted.emit(int(which) if which.isdigit() else which)
        elif int(which) < len(self._mends):
            self.mend_wanted.emit(self._mends[int(which)])

    def show_queue(self, names: list[str]) -> None:
        """The passes that wait, each with a link that cancels it."""
        rows = [f'waiting: {n.replace("<", "&lt;")} <a {self._link} href="{i}">cancel</a>' for i, n in enumerate(names)]
        self.queue.setText("<br>".join(rows))
        self.queue.setVisible(bool(rows))

    def show_running(self, running: bool) -> None:
        self.run.setText("Line up" if running else "Run")
        self.run.setToolTip("Run this pass when the one before is done (Ctrl+Return)" if running else "Run this pass (Ctrl+Return)")
        self.stop.setVisible(running)
        self.progress.setVisible(running)
        if running:
            self.progress.setValue(0)
            self.status.setText("Beginning…")

    def show_step(self, step: Step) -> None:
        self.progress.setMaximum(step.takes * step.steps)
        self.progress.setValue(step.take * step.steps + step.step)
        self.status.setText(f"Take {step.take + 1} of {step.takes}, step {step.step} of {step.steps}")


def spoken_time(seconds: float) -> str:
    """A length of time as it is said."""
    if seconds < 1.5:
        return "About a second"
    if seconds < 90:
        return f"About {seconds:.0f} seconds"
    return f"About {seconds / 60:.0f} minutes"
