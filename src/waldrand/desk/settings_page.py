"""The page of settings: each is at work at once, but for those of which it is said otherwise."""

from __future__ import annotations

import os
from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from ..core.packs import PackInfo
from ..core.worded import worded
from ..packs.installed import installed_packs, packs_folder
from .columns.widgets import heading
from .preferences import LOOKS, TEXT_SIZES, Preferences

LOOK_NAMES = {"parchment": "light, parchment", "spruce": "dark, spruce"}


class SettingsPage(QDialog):
    """Signals: changed(Preferences)."""

    changed = pyqtSignal(object)

    def __init__(self, preferences: Preferences, info: PackInfo, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(worded("Settings"))
        self.setMinimumWidth(460)
        self.preferences = preferences
        column, self._form = QVBoxLayout(self), QFormLayout()
        column.setContentsMargins(16, 12, 16, 14)
        self._form.setVerticalSpacing(7)
        column.addLayout(self._form)
        self._section(worded("Look"), self._look_rows())
        self._section(worded("Work"), self._work_rows(info))
        self._section(worded("Files"), self._file_rows())
        done = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        done.rejected.connect(self.accept)
        column.addStretch(1)
        column.addSpacing(8)
        column.addWidget(done)

    def _section(self, title: str, rows: list[tuple[str, QWidget]]) -> None:
        top = heading(title)
        # A little air above each part.
        top.setContentsMargins(0, 10, 0, 2)
        self._form.addRow(top)
        for label, field in rows:
            self._form.addRow(worded(label), field)
            if not field.accessibleName():
                field.setAccessibleName(worded(label))

    def _look_rows(self) -> list[tuple[str, QWidget]]:
        self.look = QComboBox()
        for look in LOOKS:
            self.look.addItem(worded(LOOK_NAMES[look.name]), look.name)
        self.look.setCurrentIndex([x.name for x in LOOKS].index(self.preferences.of_look.name))
        self.look.setToolTip(worded("Light or dark."))
        self.look.currentIndexChanged.connect(lambda _: self._set(look=self.look.currentData()))
        self.text = QSpinBox()
        self.text.setRange(TEXT_SIZES[0], TEXT_SIZES[2])
        self.text.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.text.setSuffix(" pixels")
        self.text.setValue(self.preferences.text)
        self.text.setToolTip(worded("How large all text in the window is."))
        self.text.valueChanged.connect(lambda v: self._set(text=v))
        self.names = self._flag(worded("Names beside the signs of the tools"), "names", worded("Each tool's name stands beside its sign."))
        return [("look", self.look), ("text", self.text), ("", self.names)]

    def _work_rows(self, info: PackInfo) -> list[tuple[str, QWidget]]:
        self.live = self._flag(
            worded("Live: a rough picture forms while you work"),
            "live",
            worded(
                "While things are moved, typed or weighed, a rough picture of the next pass forms under the outlines. It is never a take."
            ),
        )
        self.threads = QSpinBox()
        self.threads.setRange(0, os.cpu_count() or 1)
        self.threads.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.threads.setSpecialValueText(worded("as the pack says ({0})", info.threads))
        self.threads.setValue(self.preferences.threads)
        self.threads.setToolTip(worded("Threads that the model computes on. From the next start."))
        self.threads.valueChanged.connect(lambda v: self._set(threads=v))
        self.pack, pack_row = self._folder(
            "pack",
            f"{info.name} {info.version}",
            worded("Another model pack's folder, or one on a server, like http://host:port/NAME."),
        )
        self.token = self._words("token", worded("What lets you in where the pack is on a server. Kept in a file that only you can read."))
        self.token.setEchoMode(QLineEdit.EchoMode.Password)
        self.certificates = self._words(
            "certificates", worded("A file of certificates to trust where the pack is on a server, besides the system's.")
        )
        self.packs = QComboBox()
        self.packs.setAccessibleName(worded("installed packs"))
        self.packs.setToolTip(worded("The packs in {0}, and the one that came with Waldrand.", packs_folder()))
        self.packs.addItem(worded("the one that came with Waldrand"), "")
        for one in installed_packs():
            self.packs.addItem(f"{one.name} {one.version}", one.folder)
        if self.preferences.pack and self.packs.findData(self.preferences.pack) < 0:
            self.packs.addItem(self.preferences.pack, self.preferences.pack)
        self.packs.setCurrentIndex(self.packs.findData(self.preferences.pack))
        self.packs.currentIndexChanged.connect(lambda _: self.pack.setText(self.packs.currentData()))
        note = QLabel(worded("Threads, pack and server count from the next start."))
        note.setObjectName("faint")
        server: list[tuple[str, QWidget]] = [("server's token", self.token), ("its certificates", self.certificates)]
        return [("", self.live), ("threads", self.threads), ("pack", self.packs), ("or a folder or server", pack_row), *server, ("", note)]

    def _file_rows(self) -> list[tuple[str, QWidget]]:
        self.folder, folder_row = self._folder("folder", worded("where the last one was"), worded("Where files are looked for first."))
        self.author = self._words("author", worded("Written into exported pictures, if said."))
        self.rights = self._words("rights", worded("Written into exported pictures, if said: for instance © 2026 and your name."))
        return [("folder", folder_row), ("author", self.author), ("rights", self.rights)]

    # --- fields

    def _flag(self, text: str, name: str, tip: str) -> QCheckBox:
        box = QCheckBox(text)
        box.setAccessibleName(text)
        box.setChecked(getattr(self.preferences, name))
        box.setToolTip(tip)
        box.toggled.connect(lambda on: self._set(**{name: on}))
        return box

    def _words(self, name: str, tip: str) -> QLineEdit:
        line = QLineEdit(getattr(self.preferences, name))
        line.setToolTip(tip)
        line.textChanged.connect(lambda text: self._set(**{name: text.strip()}))
        return line

    def _folder(self, name: str, usual: str, tip: str) -> tuple[QLineEdit, QWidget]:
        line, made = self._words(name, tip), QWidget()
        line.setPlaceholderText(usual)
        line.setAccessibleName(worded(name))
        choose = QPushButton(worded("Choose…"))
        choose.setAutoDefault(False)
        choose.setToolTip(tip)
        choose.clicked.connect(lambda: self._choose(line))
        row = QHBoxLayout(made)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(line, 1)
        row.addWidget(choose)
        return line, made

    def _choose(self, line: QLineEdit) -> None:
        folder = QFileDialog.getExistingDirectory(self, worded("Choose a folder"), line.text())
        if folder:
            line.setText(folder)

    def _set(self, **values: object) -> None:
        self.preferences = replace(self.preferences, **values)  # type: ignore[arg-type]
        self.changed.emit(self.preferences)
