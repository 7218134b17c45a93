"""What an artist asks for: a kind of pass, its settings and its words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..fields import Field, box, check, fields_of, flag, pairs, text
from ..refused import Refused
from ..values.frame import Rect
from .settings import SETTINGS, PassSettings


@dataclass(frozen=True)
class Request:
    """kind: a kind of pass by its name; words and avoid: the pass's own, where its kind has any; nearer: keys of elements that are
    painted once more from nearer when the whole is done, one after another, each with its seed (None: the take's); small_nearer: all
    small ones first of all; keeps_form: what is painted from nearer has the form that it has in the whole; own_frame: the part of the
    sheet that is computed, None: it fits itself; clears: whether an inpaint without any words of its own leads away from what its mask
    covers; cleared: whether the words to avoid are what was found there, and nobody's own; restores: whether elements that it cuts go on in
    it; restored: their keys, each with the seed that it was painted by; more: what only its kind knows, by name;
    rounds: passes that every take goes through afterwards, by itself.

    Raises:
        Refused: a value outside its range.
    """

    kind: str
    settings: PassSettings = field(default_factory=PassSettings)
    words: str = text(label="words", tip="Words for this pass alone. Empty: the surroundings are continued.", option="what is wanted there")
    avoid: str = text(label="avoid", tip="Words this pass leads away from.", option="what is not wanted")
    nearer: tuple[tuple[int, int | None], ...] = pairs()
    small_nearer: bool = flag(
        False,
        label="things from nearer",
        tip="When the whole is done, paint each thing that is not large once more, alone in a frame of its own and along the same lines: "
        "faces, paws and windows get clear. Nearly as long again for each. Ctrl+T does it for chosen ones.",
        option="paint each thing that is not large once more from nearer, along the same lines: finer, and nearly as long again for each",
    )
    keeps_form: bool = flag(True)
    own_frame: tuple[int, int, int, int] | None = box(
        "A frame has a",
        label="frame",
        tip="The part of the sheet that is computed. Set by hand it stays where it was put; else it fits itself.",
        option="the part of the sheet that is computed: left, upper, right, lower edge in pixels (default: it fits itself)",
    )
    clears: bool = flag(True)
    cleared: bool = flag(False)
    restores: bool = flag(True)
    restored: tuple[tuple[int, int | None], ...] = pairs()
    more: tuple[tuple[str, Any], ...] = ()
    rounds: tuple[Request, ...] = ()

    def __post_init__(self) -> None:
        check(self)

    def nearer_by(self, seed: int) -> tuple[tuple[int, int], ...]:
        """Keys of what a take of this seed paints from nearer, each with the seed it is painted by."""
        return tuple((key, seed if own is None else own) for key, own in self.nearer)

    @property
    def given_rect(self) -> Rect | None:
        """The frame that was set by hand."""
        return None if self.own_frame is None else Rect(*self.own_frame)

    def value(self, name: str) -> Any:
        """What is asked for under a name, the kind's own included.

        Raises:
            KeyError: nothing goes by that name.
        """
        if name in SETTINGS:
            return getattr(self.settings, name)
        return getattr(self, name) if name in ASKED else dict(self.more)[name]


ASKED: Mapping[str, Field] = fields_of(Request)


def with_own(request_more: tuple[tuple[str, Any], ...], own: Mapping[str, Field]) -> tuple[tuple[str, Any], ...]:
    """What only a kind knows, whole: what is not said as by default, in the order of the kind's fields.

    Raises:
        Refused: a name that is none of them, or a value outside its range.
    """
    said = dict(request_more)
    for name in said:
        if name not in own:
            raise Refused(f"This kind of pass has nothing called “{name}”.")
    return tuple((name, f.checked(said.get(name, f.default))) for name, f in own.items())
