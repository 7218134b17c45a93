"""What a kind of pass is: its name, what can be said and set for it, and the stages that it is painted in."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, ClassVar

from ..fields import Field
from ..packs import Pack
from ..values.outline import Outline
from ..values.sheet import Sheet
from .cautions import Caution
from .grounded import Grounded
from .listed import Listed
from .request import ASKED, Request
from .settings import SETTINGS
from .stage import Stage
from .take import Take

#: What has a meaning for every kind that lets the model paint: how it is computed.
COMPUTED = (
    *("figures", "sketches", "seed", "quick", "steps", "guidance", "drawing_guidance"),
    *("method", "sampler", "spacing", "detail", "carry_detail", "ink", "paper", "weather"),
)


class Kind(ABC):
    """A kind of pass. Without state: everything is asked with the sheet (of visible and held elements), the request and the pack."""

    #: Its name in files and commands, in the window, and what it does, in a sentence.
    name: ClassVar[str]
    title: ClassVar[str]
    tip: ClassVar[str]
    #: The denoise strength that it begins with.
    begins: ClassVar[float] = 1.0
    #: Of all that can be set and said for passes, what has a meaning for this kind.
    uses: ClassVar[tuple[str, ...]] = ()
    #: What only this kind knows.
    own: ClassVar[Mapping[str, Field]] = {}
    #: What recipes meant of these that do not say, where that is not as it is by default now.
    older: ClassVar[Mapping[str, Any]] = {}
    #: Whether elements take part, so that takes are judged by them; whether it changes only what the mask covers.
    hears_elements: ClassVar[bool] = False
    masked: ClassVar[bool] = False
    #: Whether, without a mask, it finds by itself what it paints.
    finds: ClassVar[bool] = False
    #: Whether it is offered by itself; others are only parts of what another kind does.
    offered: ClassVar[bool] = True
    #: Whether it paints in tiles, however large the sheet is.
    tiled: ClassVar[bool] = False
    #: Whether it paints what is empty, so that it is what comes after a sheet got more room.
    fills_empty: ClassVar[bool] = False

    def meet(self, kinds: Mapping[str, Kind]) -> None:
        """Told once which kinds there are, by name: for one that is made of others."""
        return

    def fields(self) -> dict[str, Field]:
        """All that can be set and said for it, in the order in which it is shown."""
        known = {**ASKED, **SETTINGS, **self.own}
        out = {name: known[name] for name in (*self.uses, *self.own)}
        if "strength" in out:
            out["strength"] = replace(out["strength"], default=self.begins)
        return out

    def begun(self) -> Mapping[str, Any]:
        """What of its own is set where a window turns to it by itself, because the sheet got something that it is for."""
        return {}

    def settled(self, sheet: Sheet, request: Request, pack: Pack) -> Request:
        """What is really asked for where the request leaves something open.

        Raises:
            Refused: the pass cannot run at all, in a sentence that says what to do.
        """
        return request

    def looks(self, sheet: Sheet, request: Request, pack: Pack) -> Callable[[], object] | None:
        """What has to be looked for in the picture before the pass can be planned, where that takes long and was not done yet.

        Raises:
            Refused: the pass cannot run at all.
        """
        return None

    def found(self, sheet: Sheet, request: Request, pack: Pack) -> Sequence[Listed]:
        """What it found and would paint, ticked or not.

        Raises:
            Refused: the pass cannot run at all.
        """
        return ()

    def apart(self, sheet: Sheet, request: Request, pack: Pack) -> tuple[tuple[Sheet, Request], ...]:
        """The passes that it is made of, where each leaves a patch of its own on what those before it left; none where it is one.
        request: a settled one.

        Raises:
            Refused: the pass cannot run at all.
        """
        return ()

    def drawn(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Mapping[int, Outline], Grounded]:
        """What a take of this seed would be told by drawings of the pack's: figures by the elements' keys, and grounds."""
        return {}, Grounded()

    def changes(self, sheet: Sheet, stages: Sequence[Stage]) -> float | None:
        """The share of the sheet that it may change, 0..1, where it knows better than the frame and the mask tell."""
        return None

    def finished(self, sheet: Sheet, request: Request, take: Take) -> Take:
        """A take with what is laid over it by other means than painting. request: a settled one."""
        return take

    @abstractmethod
    def stages(self, sheet: Sheet, request: Request, pack: Pack, seed: int) -> tuple[Stage, ...]:
        """The stages of one take. request: a settled one.

        Raises:
            Refused: the pass cannot run at all, in a sentence that says what to do.
        """

    @abstractmethod
    def describe(self, sheet: Sheet, request: Request, stages: Sequence[Stage], changed: float) -> list[str]:
        """What it does, in sentences. changed: the share of the sheet that it may change, 0..1."""

    def notes(self, sheet: Sheet, request: Request, stages: Sequence[Stage]) -> list[str]:
        """What else is worth knowing of how it does it, in sentences."""
        return []

    def cautions(self, sheet: Sheet, request: Request, stages: Sequence[Stage], pack: Pack) -> list[Caution]:
        """What looks wrong, beside what would look so with any kind."""
        return []
