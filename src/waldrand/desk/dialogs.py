"""Questions the window asks. In one place, so that they read alike."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QLabel,
    QListWidget,
    QMessageBox,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from ..core.pack import PackInfo
from ..core.sheet import LARGEST_SIDE

OPENABLE = "Sheets, layouts and pictures (*.ora *.toml *.png *.jpg *.jpeg *.webp *.tif *.tiff)"


class NewSheet(QDialog):
    """Asks for a size, those the model likes first."""

    def __init__(self, info: PackInfo, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("New sheet")
        self.sizes = QListWidget()
        self.sizes.setAccessibleName("sizes")
        self._choices = [*info.best_sizes, *((2 * w, 2 * h) for w, h in info.best_sizes[:3])]
        for w, h in self._choices:
            likes = "the model's own size" if (w, h) in info.best_sizes else "computed smaller and enlarged"
            self.sizes.addItem(f"{w} x {h}   {likes}")
        self.width_box, self.height_box = QSpinBox(), QSpinBox()
        for box, name in ((self.width_box, "width"), (self.height_box, "height")):
            box.setRange(16, LARGEST_SIDE)
            box.setSuffix(" px")
            box.setAccessibleName(name)
            box.setToolTip(f"The sheet's {name} in pixels; any size works.")
        form = QFormLayout()
        form.addRow("width", self.width_box)
        form.addRow("height", self.height_box)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(QLabel("Choose a size, or type one."))
        layout.addWidget(self.sizes)
        layout.addLayout(form)
        layout.addWidget(buttons)
        self.sizes.currentRowChanged.connect(self._take)
        self.sizes.itemDoubleClicked.connect(lambda _: self.accept())
        self.sizes.setCurrentRow(0)

    def _take(self, row: int) -> None:
        if row >= 0:
            self.width_box.setValue(self._choices[row][0])
            self.height_box.setValue(self._choices[row][1])

    @property
    def size_chosen(self) -> tuple[int, int]:
        return self.width_box.value(), self.height_box.value()


class Dialogs:
    """What the window asks its user."""

    def __init__(self, parent: QWidget) -> None:
        self.parent = parent

    def new_size(self, info: PackInfo) -> tuple[int, int] | None:
        dialog = NewSheet(info, self.parent)
        return dialog.size_chosen if dialog.exec() == QDialog.DialogCode.Accepted else None

    def open_path(self) -> Path | None:
        name, _ = QFileDialog.getOpenFileName(self.parent, "Open", "", OPENABLE)
        return Path(name) if name else None

    def save_path(self, title: str, suggestion: str, kind: str, suffix: str) -> Path | None:
        name, _ = QFileDialog.getSaveFileName(self.parent, title, suggestion, kind)
        if not name:
            return None
        path = Path(name)
        return path if path.suffix.lower() == suffix else path.with_name(path.name + suffix)

    def unsaved(self, name: str) -> Literal["save", "discard", "cancel"]:
        box = QMessageBox(QMessageBox.Icon.Question, "Unsaved work", f"“{name}” has changes that are not saved.", parent=self.parent)
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Don't save", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return "save" if box.clickedButton() is save else "discard" if box.clickedButton() is leave else "cancel"

    def tell(self, text: str) -> None:
        QMessageBox.information(self.parent, "Waldrand", text)
