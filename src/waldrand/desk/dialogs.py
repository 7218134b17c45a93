"""Questions the window asks. In one place, so that they read alike."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Literal, cast

from PyQt6.QtCore import QDateTime, QEventLoop, Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QMessageBox,
    QProgressBar,
    QProgressDialog,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from ..core.packs import PackInfo
from ..core.passes.watch import Stopped
from ..core.refused import Refused
from ..core.values.division import SharesError, parse_shares
from ..core.values.frame import Rect
from ..core.worded import worded
from ..files.formats import openable
from .columns.size_field import SizeField
from .jobs.beside import Beside

#: Shapes people ask for: name, width by height.
RATIOS: tuple[tuple[str, int, int], ...] = (
    ("square", 1, 1),
    ("3:2", 3, 2),
    ("2:3 upright", 2, 3),
    ("4:3", 4, 3),
    ("3:4 upright", 3, 4),
    ("16:9", 16, 9),
    ("9:16 upright", 9, 16),
    ("2:1 banner", 2, 1),
)


class _Sized(QDialog):
    """A dialog with a width and a height that do sums."""

    def __init__(self, title: str, width: int, height: int, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.width_box, self.height_box = (
            SizeField(worded("Width in pixels."), "width", 16),
            SizeField(worded("Height in pixels."), "height", 16),
        )
        self.show_size(width, height)
        self.form = QFormLayout()
        self.form.addRow(worded("width"), self.width_box)
        self.form.addRow(worded("height"), self.height_box)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)

    def show_size(self, width: int, height: int) -> None:
        for field, v in ((self.width_box, width), (self.height_box, height)):
            field.show_value(v, v)
            field.setText(str(v))

    @property
    def size_chosen(self) -> tuple[int, int]:
        return round(self.width_box.value), round(self.height_box.value)


class NewSheet(_Sized):
    """Asks for a size, those the model likes first, then common shapes of like area."""

    def __init__(self, info: PackInfo, parent: QWidget | None = None) -> None:
        w0, h0 = info.best_sizes[0]
        super().__init__(worded("New sheet"), w0, h0, parent)
        self.sizes = QListWidget()
        self.sizes.setAccessibleName(worded("sizes"))
        self._choices: list[tuple[int, int]] = []

        def offer(w: int, h: int, text: str) -> None:
            if (w, h) not in self._choices:
                self._choices.append((w, h))
                self.sizes.addItem(f"{w} x {h}   {text}")

        for w, h in info.best_sizes:
            offer(w, h, worded("the model's own size"))
        for name, a, b in RATIOS:
            k = (w0 * h0 / (a * b)) ** 0.5
            offer(round(a * k / 16) * 16, round(b * k / 16) * 16, name)
        for w, h in info.best_sizes[:3]:
            offer(2 * w, 2 * h, worded("computed smaller and enlarged"))
        layout = QVBoxLayout(self)
        layout.addWidget(QLabel(worded("Choose a size, or type one; sums like 640 * 5/4 are worked out.")))
        layout.addWidget(self.sizes)
        layout.addLayout(self.form)
        layout.addWidget(self.buttons)
        self.sizes.currentRowChanged.connect(self._take)
        self.sizes.itemDoubleClicked.connect(lambda _: self.accept())
        self.sizes.setCurrentRow(0)

    def _take(self, row: int) -> None:
        if row >= 0:
            self.show_size(*self._choices[row])


#: What becomes of the picture when a sheet gets another size: cut or given room, or scaled in one of two ways.
Way = Literal["framed", "smooth", "crisp"]


class SheetSize(_Sized):
    """Asks how the sheet is cropped, extended or scaled."""

    def __init__(self, width: int, height: int, parent: QWidget | None = None) -> None:
        super().__init__(worded("Size of the sheet"), width, height, parent)
        self._before = (width, height)
        self.way_box = QComboBox()
        self.way_box.setAccessibleName(worded("what becomes of the picture"))
        for text, way in (
            (worded("cropped, or given empty room"), "framed"),
            (worded("scaled smoothly, outlines too"), "smooth"),
            (worded("scaled with its edges drawn anew, outlines too"), "crisp"),
        ):
            self.way_box.addItem(text, way)
        self.way_box.setToolTip(
            worded(
                "Cropped: nothing changes its size. Scaled smoothly: edges get soft where it grows. Drawn anew: the model makes "
                "them sharp, and adds nothing else; that takes some seconds."
            )
        )
        self.anchor = QComboBox()
        self.anchor.setAccessibleName(worded("where the old sheet lies"))
        for down, upper in enumerate(("top", "middle", "bottom")):
            for across, side in enumerate(("left", "centre", "right")):
                self.anchor.addItem(f"{upper} {side}", (across / 2, down / 2))
        self.anchor.setCurrentIndex(4)
        self.anchor.setToolTip(worded("Where the old sheet lies in the new one."))
        self.way_box.currentIndexChanged.connect(lambda _: self.form.setRowVisible(self.anchor, self.way == "framed"))
        self.form.addRow(worded("the picture is"), self.way_box)
        self.form.addRow(worded("old sheet at"), self.anchor)
        layout = QVBoxLayout(self)
        layout.addLayout(self.form)
        layout.addWidget(self.buttons)

    def begin_larger(self, times: int) -> None:
        """Offers only ways to make it larger, so many times a side to begin with."""
        self.setWindowTitle(worded("Enlarge and refine"))
        self.way_box.removeItem(self.way_box.findData("framed"))
        self.way_box.setCurrentIndex(self.way_box.findData("crisp"))
        w, h = self._before
        self.show_size(w * times, h * times)

    @property
    def way(self) -> Way:
        return cast(Way, self.way_box.currentData())

    @property
    def rect_chosen(self) -> Rect:
        """The new sheet in the old one's coordinates."""
        (w, h), (fx, fy) = self.size_chosen, self.anchor.currentData()
        x, y = round(fx * (self._before[0] - w)), round(fy * (self._before[1] - h))
        return Rect(x, y, x + w, y + h)


class DivideDialog(QDialog):
    """Asks for shares; what does not parse is marked where it is wrong."""

    def __init__(self, what: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(worded("Divide"))
        self.across, self.down = QLineEdit("1, 1"), QLineEdit("1")
        form = QFormLayout()
        for label, line, tip in (
            ("across", self.across, worded("Shares of the columns from the left: 1, 1, 2 makes the last one twice as wide.")),
            ("down", self.down, worded("Shares of the rows from the top; 1 leaves them undivided.")),
        ):
            line.setToolTip(tip)
            line.setAccessibleName(worded("shares {0}", label))
            form.addRow(label, line)
            line.textChanged.connect(self._check)
        self.problem = QLabel()
        self.problem.setObjectName("warning")
        self.problem.setWordWrap(True)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(QLabel(worded("Divide {0} into parts; they become elements, ready for words.", what)))
        layout.addLayout(form)
        layout.addWidget(self.problem)
        layout.addWidget(self.buttons)
        self._check()

    def _check(self) -> None:
        self.problem.clear()
        for line in (self.across, self.down):
            try:
                parse_shares(line.text())
            except SharesError as error:
                self.problem.setText(f"{line.accessibleName()}: {error}")
                if line.hasFocus():
                    rest = len(line.text()) - error.at
                    at = line.cursorPosition()
                    # The wrong part is shown selected, but not under the typing hand.
                    if at < error.at:
                        line.setSelection(error.at, rest)
                line.setStyleSheet("border: 2px solid #c2412a;")
            else:
                line.setStyleSheet("")
        ok = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        assert ok is not None
        ok.setEnabled(not self.problem.text())

    @property
    def shares(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        return parse_shares(self.across.text()), parse_shares(self.down.text())


class Shortcuts(QDialog):
    """One sheet of all keys, by menu."""

    def __init__(self, groups: list[tuple[str, list[tuple[str, str]]]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(worded("Keys"))
        self.resize(940, 640)
        text = QTextBrowser()
        text.setAccessibleName(worded("keys"))
        cells = []
        for title, rows in groups:
            lines = "".join(f"<tr><td>{name}&nbsp;&nbsp;</td><td><b>{keys}</b></td></tr>" for name, keys in rows)
            cells.append(worded("<td style='padding-right: 24px'><h3>{0}</h3><table>{1}</table></td>", title, lines))
        rows_of = [cells[i : i + 3] for i in range(0, len(cells), 3)]
        text.setHtml("<table>" + "".join(f"<tr>{''.join(r)}</tr>" for r in rows_of) + "</table>")
        layout = QVBoxLayout(self)
        layout.addWidget(text)


class Dialogs:
    """What the window asks its user."""

    def __init__(self, parent: QWidget) -> None:
        self.parent = parent
        #: Where files are looked for first; empty: where the last one was.
        self.folder = ""

    def wait_for(self, beside: Beside) -> None:
        """Waits for file work that is under way, saying so; it can be stopped."""
        loop, dialog = QEventLoop(), QProgressDialog(worded("{0} … The window waits for it.", beside.what), "Stop", 0, 0, self.parent)
        dialog.setWindowTitle(worded("Waldrand"))
        dialog.setWindowModality(Qt.WindowModality.WindowModal)
        dialog.setMinimumDuration(0)
        dialog.canceled.connect(beside.stop)
        beside.over.connect(loop.quit)
        dialog.show()
        while beside.busy:
            loop.exec()
        dialog.close()
        dialog.deleteLater()

    def _first(self, name: str = "") -> str:
        """Where a file is looked for first."""
        return str(Path(self.folder) / name) if self.folder and not Path(name).is_absolute() else name

    def new_size(self, info: PackInfo) -> tuple[int, int] | None:
        dialog = NewSheet(info, self.parent)
        return dialog.size_chosen if dialog.exec() == QDialog.DialogCode.Accepted else None

    def sheet_size(self, width: int, height: int) -> tuple[Rect, Way] | None:
        """The new sheet in the old one's coordinates, and whether that is cut out or everything is scaled to its size."""
        dialog = SheetSize(width, height, self.parent)
        return (dialog.rect_chosen, dialog.way) if dialog.exec() == QDialog.DialogCode.Accepted else None

    def enlarged_size(self, width: int, height: int) -> tuple[Rect, Way] | None:
        """How large the sheet shall become before it is refined, and how it is drawn larger; twice as large and crisp to begin with."""
        dialog = SheetSize(width, height, self.parent)
        dialog.begin_larger(2)
        return (dialog.rect_chosen, dialog.way) if dialog.exec() == QDialog.DialogCode.Accepted else None

    @contextmanager
    def steps(self, what: str, count: int) -> Iterator[Callable[[], None]]:
        """Shows how far long work has come. What it gives is called before each step, and raises Stopped where no more is wanted."""
        dialog = QProgressDialog(what, "Stop", 0, count, self.parent)
        dialog.setWindowTitle(worded("Waldrand"))
        dialog.setWindowModality(Qt.WindowModality.WindowModal)
        dialog.setMinimumDuration(300)
        bar = QProgressBar()
        # There is no room for a number on it.
        bar.setTextVisible(False)
        bar.setMaximum(count)
        dialog.setBar(bar)
        begun = 0

        def tick() -> None:
            nonlocal begun
            dialog.setValue(begun)
            begun += 1
            if dialog.wasCanceled():
                raise Stopped

        try:
            yield tick
        finally:
            dialog.close()
            dialog.deleteLater()

    def shares(self, what: str) -> tuple[tuple[float, ...], tuple[float, ...]] | None:
        dialog = DivideDialog(what, self.parent)
        return dialog.shares if dialog.exec() == QDialog.DialogCode.Accepted else None

    def words(self, title: str, question: str, suggestion: str = "") -> str | None:
        text, ok = QInputDialog.getText(self.parent, title, question, text=suggestion)
        return text if ok else None

    def number(self, title: str, question: str, value: float, least: float, most: float) -> float | None:
        given, ok = QInputDialog.getDouble(self.parent, title, question, value, least, most, 1)
        return given if ok else None

    def yes(self, question: str, yes: str, no: str) -> bool:
        box = QMessageBox(QMessageBox.Icon.Question, "Waldrand", question, parent=self.parent)
        agreed = box.addButton(yes, QMessageBox.ButtonRole.AcceptRole)
        box.addButton(no, QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return box.clickedButton() is agreed

    def bring_back(self, when: float) -> Literal["bring", "drop", "later"]:
        """What shall become of unsaved work. when: it was left, in seconds since 1970. Closing the question decides nothing."""
        at = QDateTime.fromSecsSinceEpoch(int(when)).toString("d MMMM, hh:mm")
        question = worded("Waldrand was left with unsaved work on {0}. Bring it back?", at)
        box = QMessageBox(QMessageBox.Icon.Question, "Waldrand", question, parent=self.parent)
        bring = box.addButton(worded("Bring it back"), QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton(worded("Let it go"), QMessageBox.ButtonRole.DestructiveRole)
        later = box.addButton(worded("Ask again later"), QMessageBox.ButtonRole.RejectRole)
        box.setEscapeButton(later)
        box.exec()
        return "bring" if box.clickedButton() is bring else "drop" if box.clickedButton() is drop else "later"

    def show(self, dialog: QDialog) -> bool:
        """Shows a dialog until it is closed; whether it was accepted."""
        return dialog.exec() == QDialog.DialogCode.Accepted

    def open_path(self) -> Path | None:
        name, _ = QFileDialog.getOpenFileName(self.parent, "Open", self._first(), worded("Sheets, layouts and pictures ({0})", openable()))
        return Path(name) if name else None

    def any_path(self, title: str, kind: str) -> Path | None:
        """A file of a kind, to be read."""
        name, _ = QFileDialog.getOpenFileName(self.parent, title, self._first(), kind)
        return Path(name) if name else None

    def save_path(self, title: str, suggestion: str, kind: str, suffix: str | tuple[str, ...]) -> Path | None:
        """suffix: the ending, or those that may be; the first is put on where there is none of them."""
        name, _ = QFileDialog.getSaveFileName(self.parent, title, self._first(suggestion), kind)
        if not name:
            return None
        path = Path(name)
        endings = (suffix,) if isinstance(suffix, str) else suffix
        return path if path.suffix.lower() in endings else path.with_name(path.name + endings[0])

    def unsaved(self, name: str) -> Literal["save", "discard", "cancel"]:
        box = QMessageBox(
            QMessageBox.Icon.Question, worded("Unsaved work"), worded("“{0}” has changes that are not saved.", name), parent=self.parent
        )
        save = box.addButton(worded("Save"), QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton(worded("Don't save"), QMessageBox.ButtonRole.DestructiveRole)
        box.addButton(worded("Cancel"), QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return "save" if box.clickedButton() is save else "discard" if box.clickedButton() is leave else "cancel"

    def attempt(self, act: Callable[[], object]) -> bool:
        """Does something that can be refused; that is told in its own sentence."""
        try:
            act()
        except Refused as error:
            self.tell(str(error))
            return False
        return True

    def tell(self, text: str) -> None:
        QMessageBox.information(self.parent, "Waldrand", text)
