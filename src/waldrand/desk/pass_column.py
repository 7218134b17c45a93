"""The next pass: its kind and settings, what it will do, and the button that runs it."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
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

from ..core.noise import LARGEST_SEED
from ..core.plan import Plan
from ..core.request import METHODS, MOST_GUIDANCE, MOST_STEPS, Kind
from ..core.run import Step
from ..core.samplers import SAMPLERS
from .document import Document
from .widgets import Dial, WordsField, heading, hint, labelled, number, scrolled, show_number, whole_number

KINDS: tuple[tuple[Kind, str, str], ...] = (
    ("compose", "Compose", "Paint the whole sheet from its scene and elements."),
    ("inpaint", "Inpaint", "Repaint only what the mask covers; everything else stays bit for bit."),
    ("rework", "Rework", "Repaint the whole picture at a strength, so that its parts belong together."),
)
METHOD_NAMES = {"steer": "steered by outlines", "text": "text only"}
SAMPLER_NAMES = {"second": "second order", "first": "first order"}


class PassColumn(QWidget):
    """Signals: run_wanted(), stop_wanted(), about_wanted(an element's key)."""

    run_wanted = pyqtSignal()
    stop_wanted = pyqtSignal()
    about_wanted = pyqtSignal(int)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.document = document
        self.kinds: dict[str, QToolButton] = {}
        group, row = QButtonGroup(self), QHBoxLayout()
        row.setSpacing(4)
        for kind, text, tip in KINDS:
            b = QToolButton()
            b.setText(text)
            b.setToolTip(tip)
            b.setCheckable(True)
            b.setAccessibleName(text)
            group.addButton(b)
            row.addWidget(b, 1)
            b.clicked.connect(lambda _=False, k=kind: self._set(kind=k))
            self.kinds[kind] = b
        self.words = WordsField("what is wanted there", "Words for this pass alone. Empty: the surroundings are continued.", "pass words")
        self.avoid = WordsField("not wanted", "Words this pass leads away from.", "pass avoid words")
        self.strength = Dial(
            "Denoise strength: 0 keeps the picture, about 0.3 unites it, 0.6 repaints in place, 1 starts anew.", "denoise strength"
        )
        self.takes = whole_number(1, 16, "How many takes, with rising seeds.", "takes")
        self.seed = whole_number(0, LARGEST_SEED, "Seed of the first take. The same seed and settings paint the same picture.", "seed")
        self.fresh = QToolButton()
        self.fresh.setText("next")
        self.fresh.setToolTip("Go on to seeds not yet used by these takes (N)")
        self.steps = whole_number(1, MOST_STEPS, "Steps at full strength: more is slower, about 20 is enough.", "steps")
        self.guidance = number(
            0, MOST_GUIDANCE, 0.25, 2, "Guidance: how strictly words are followed. 1 to 4 is usual; 1 is twice as quick.", "guidance"
        )
        self.method = QComboBox()
        self.method.setToolTip("Steered: each thing inside its outline. Text only: all words in one prompt, outlines ignored, to compare.")
        self.method.setAccessibleName("method")
        for m in METHODS:
            self.method.addItem(METHOD_NAMES[m], m)
        self.sampler = QComboBox()
        self.sampler.setToolTip("How noise levels are stepped through; second order needs fewer steps.")
        self.sampler.setAccessibleName("sampler")
        for s in SAMPLERS:
            self.sampler.addItem(SAMPLER_NAMES[s], s)
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
            ("seed", seed_row),
            ("steps", self.steps),
            ("guidance", self.guidance),
            ("method", self.method),
            ("sampler", self.sampler),
        )
        self.forecast = QLabel()
        self.forecast.setWordWrap(True)
        self.forecast.setAccessibleName("forecast")
        self.warnings = QLabel()
        self.warnings.setWordWrap(True)
        self.warnings.setObjectName("warning")
        self.warnings.setAccessibleName("warnings")
        self.warnings.setTextFormat(Qt.TextFormat.RichText)
        self.warnings.linkActivated.connect(lambda key: self.about_wanted.emit(int(key)))
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
        for w in (self.status, self.progress, self.run, self.stop):
            foot.addWidget(w)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll, 1)
        outer.addLayout(foot)
        self.words.said.connect(lambda t: self._set(words=t))
        self.avoid.said.connect(lambda t: self._set(avoid=t))
        self.strength.turned.connect(lambda v: document.set_draft(document.draft.with_strength(v), "strength", "strength"))
        self.takes.valueChanged.connect(lambda v: self._set(takes=v))
        self.seed.valueChanged.connect(lambda v: self._tune(seed=v))
        self.fresh.clicked.connect(self.next_seeds)
        self.steps.valueChanged.connect(lambda v: self._tune(steps=v))
        self.guidance.valueChanged.connect(lambda v: self._tune(guidance=v))
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
        for box, v in ((self.takes, d.takes), (self.seed, s.seed), (self.steps, s.steps), (self.guidance, s.guidance)):
            show_number(box, v)
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
        ):
            field.setVisible(shown)
            self._labels[label].setVisible(shown)
        self.mask_hint.setVisible(d.kind == "inpaint" and (self.document.sheet.mask is None or self.document.sheet.mask.empty))

    def show_forecast(self, plan: Plan | None, problem: str = "") -> None:
        """What the next pass will do, or why it cannot run."""
        self.run.setEnabled(plan is not None)
        self.forecast.setText(" ".join(plan.sentences) if plan else problem)
        lines = []
        for w in plan.warnings if plan else ():
            text = w.text.replace("&", "&amp;").replace("<", "&lt;")
            lines.append(f"• {text}" + (f' <a href="{w.about}">show</a>' if w.about is not None else ""))
        self.warnings.setText("<br>".join(lines))
        self.warnings.setVisible(bool(lines))

    def show_running(self, running: bool) -> None:
        self.run.setVisible(not running)
        self.stop.setVisible(running)
        self.progress.setVisible(running)
        if running:
            self.progress.setValue(0)
            self.status.setText("Beginning…")

    def show_step(self, step: Step) -> None:
        self.progress.setMaximum(step.takes * step.steps)
        self.progress.setValue(step.take * step.steps + step.step)
        self.status.setText(f"Take {step.take + 1} of {step.takes}, step {step.step} of {step.steps}")
