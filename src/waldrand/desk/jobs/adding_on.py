"""Add-ons merged into the model, and taken away again."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ...core.worded import worded
from ...packs.add_ons import LEAST, MOST, Merged, read_add_on
from ...packs.installed import installed_add_ons
from ...packs.onnx_pack import OnnxPack
from ..dialogs import Dialogs
from .beside import Beside
from .passes import Passes


class AddingOn:
    """Works on the pack itself: it stays so until the program ends, whatever sheet is open."""

    def __init__(self, passes: Passes, beside: Beside, dialogs: Callable[[], Dialogs], say: Callable[[str], None]) -> None:
        self._passes, self._beside, self._dialogs, self.say = passes, beside, dialogs, say

    def add(self, path: Path) -> None:
        """One from a file, by as much as is asked for; one that is there already gets another weight."""
        asked = worded("By how much it is merged: 1 as it was trained, 0 not, below 0 the other way")
        weight = self._dialogs().number(worded("Add-on “{0}”", path.stem), asked, 1.0, LEAST, MOST)
        if weight is not None:
            one = Merged(read_add_on(path), weight)
            others = [m for m in self._merged() if m.add_on.digest != one.add_on.digest]
            self._use([*others, one], worded("“{0}” is merged: its words are “{1}”.", one.add_on.name, one.add_on.words))

    def names(self) -> list[str]:
        """The add-ons that are installed."""
        return list(installed_add_ons())

    def add_named(self, name: str) -> None:
        """One of those."""
        self.add(installed_add_ons()[name])

    def none(self) -> None:
        """All of them away again."""
        if not self._merged():
            self.say(worded("No add-on is merged."))
            return
        self._use([], worded("The model is as it was installed."))

    def _merged(self) -> list[Merged]:
        pack = self._passes.pack
        return list(pack.add_ons) if isinstance(pack, OnnxPack) else []

    def _use(self, merged: list[Merged], said: str) -> None:
        pack = self._passes.pack
        if not isinstance(pack, OnnxPack):
            self.say(worded("The pack {0} takes no add-ons.", pack.info.name))
            return
        if self._passes.runner.running:
            self.say(worded("A pass is running: wait for it, or stop it, before the model is changed."))
            return

        def done(_: object) -> None:
            self._passes.refresh_forecast()
            self.say(said)

        self._beside.do(worded("Changing the model"), lambda _: pack.use_add_ons(merged), done, self._told)

    def _told(self, why: str) -> None:
        if why:
            self.say(why)
