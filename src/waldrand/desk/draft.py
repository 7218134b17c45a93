"""The next pass as it stands in the pass column."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..core.fields import Field, from_values, needed, taken_list, taken_number, taken_table, taken_whole, taken_words, to_values
from ..core.passes.kind import Kind
from ..core.passes.kinds import KINDS, first_kind, kind_of
from ..core.passes.recipe import request_from_json, request_to_json
from ..core.passes.request import ASKED, Request
from ..core.passes.settings import SETTINGS, PassSettings
from ..core.refused import Refused
from ..core.worded import worded

MOST_TAKES, MOST_AGAIN = 16, 9


@dataclass(frozen=True)
class Draft:
    """strengths: what each kind of pass was last set to; more: what only some kinds know, by kind and name; again: how often what missed
    its outline gets another chance in each take; small_nearer: whether small things are painted from nearer; own_frame: the frame
    that was set by hand, None: it fits itself; habit: the name of what every take goes through afterwards, and rounds: that; model:
    the name of the pack that the sheet was begun with."""

    kind: str = field(default_factory=lambda: first_kind().name)
    settings: PassSettings = field(default_factory=PassSettings)
    words: str = ""
    avoid: str = ""
    takes: int = 2
    strengths: tuple[tuple[str, float], ...] = field(default_factory=lambda: tuple((k.name, k.begins) for k in KINDS.values()))
    again: int = 0
    small_nearer: bool = False
    own_frame: tuple[int, int, int, int] | None = None
    more: tuple[tuple[tuple[str, str], Any], ...] = ()
    habit: str = ""
    rounds: tuple[Request, ...] = ()
    model: str = ""

    @property
    def of_kind(self) -> Kind:
        return kind_of(self.kind)

    @property
    def fields(self) -> Mapping[str, Field]:
        """All that can be set and said for its kind of pass."""
        return self.of_kind.fields()

    @property
    def strength(self) -> float:
        return dict(self.strengths).get(self.kind, self.of_kind.begins)

    def value(self, name: str) -> Any:
        """What it is set to, under the name of a field."""
        if name == "strength":
            return self.strength
        if name in SETTINGS:
            return getattr(self.settings, name)
        own = self.of_kind.own
        return dict(self.more).get((self.kind, name), own[name].default) if name in own else getattr(self, name)

    def with_value(self, name: str, value: Any) -> Draft:
        """The same with something else under the name of a field."""
        if name == "strength":
            return self.with_strength(value)
        if name in SETTINGS:
            return replace(self, settings=replace(self.settings, **{name: value}))
        if name in self.of_kind.own:
            return replace(self, more=tuple((dict(self.more) | {(self.kind, name): value}).items()))
        values: dict[str, Any] = {name: value}
        return replace(self, **values)

    def turned_to(self, kind: Kind) -> Draft:
        """For another kind of pass, because the sheet got something that it is for."""
        turned = replace(self, kind=kind.name)
        for name, value in kind.begun().items():
            turned = turned.with_value(name, value)
        return turned

    def with_strength(self, value: float) -> Draft:
        return replace(self, strengths=tuple((dict(self.strengths) | {self.kind: value}).items()))

    def request(self) -> Request:
        """What it asks for."""
        fields = self.fields
        said: dict[str, Any] = {name: self.value(name) for name in ("words", "avoid", "small_nearer", "own_frame") if name in fields}
        more = tuple((name, self.value(name)) for name in self.of_kind.own)
        rounds = () if self.of_kind.finds else self.rounds
        return Request(self.kind, replace(self.settings, strength=self.strength), **said, more=more, rounds=rounds)

    def asking_for(self, request: Request) -> Draft:
        """The draft that asks for a request."""
        own = replace(
            self,
            kind=request.kind,
            settings=replace(request.settings, strength=self.settings.strength),
            own_frame=request.own_frame,
            small_nearer=self.small_nearer or request.small_nearer,
        )
        if "words" in own.fields:
            # What a pass without words leads away from by itself is nobody's wish.
            own = replace(own, words=request.words, avoid="" if request.cleared else request.avoid)
        for name, value in request.more:
            own = own.with_value(name, value)
        return own.with_strength(request.settings.strength)

    def to_json(self) -> dict[str, Any]:
        return {
            "pass": to_values(self.settings),
            "kind": self.kind,
            "words": self.words,
            "avoid": self.avoid,
            "takes": self.takes,
            "strengths": dict(self.strengths),
            "again": self.again,
            "small_nearer": self.small_nearer,
            "own_frame": ASKED["own_frame"].plain(self.own_frame),
            "more": [[kind, name, list(v) if isinstance(v, tuple) else v] for (kind, name), v in self.more],
            **({"model": self.model} if self.model else {}),
            **({"habit": self.habit, "rounds": [request_to_json(one) for one in self.rounds]} if self.rounds else {}),
        }

    @classmethod
    def from_json(cls, d: dict[str, Any]) -> Draft:
        """Raises Refused when the values are not a draft's."""
        if not d:
            return cls()
        try:
            return cls._taken(d)
        except Refused as error:
            raise Refused(worded("The sheet's pass settings are damaged. {0}", error)) from error

    @classmethod
    def _taken(cls, d: dict[str, Any]) -> Draft:
        what = worded("The pass")
        kind = kind_of(taken_words(needed(d, "kind", what), "The kind of pass"))
        strengths = dict(cls().strengths)
        for name, value in taken_table(needed(d, "strengths", what), "The strengths").items():
            if name in KINDS:
                strengths[name] = SETTINGS["strength"].checked(taken_number(value, "A strength"))
        takes, again = (taken_whole(d.get(k, v), f"“{k}” of the pass") for k, v in (("takes", 2), ("again", 0)))
        if not (1 <= takes <= MOST_TAKES and 0 <= again <= MOST_AGAIN):
            raise Refused(worded("There are 1 to {0} takes, tried again up to {1} times.", MOST_TAKES, MOST_AGAIN))
        return cls(
            kind.name,
            from_values(PassSettings, taken_table(needed(d, "pass", what), "The settings of the pass"), "the settings of the pass"),
            taken_words(needed(d, "words", what), "The words of the pass"),
            taken_words(needed(d, "avoid", what), "The words that the pass avoids"),
            takes,
            tuple(strengths.items()),
            again,
            d.get("small_nearer", False) is True,
            ASKED["own_frame"].checked(ASKED["own_frame"].taken(d.get("own_frame"), "The frame of the pass")),
            tuple(_own(d.get("more", []))),
            taken_words(d.get("habit", ""), "The habit of the pass"),
            tuple(map(request_from_json, taken_list(d.get("rounds", []), "The rounds of the pass"))),
            taken_words(d.get("model", ""), "The model of the sheet"),
        )


def _own(listed: Any) -> list[tuple[tuple[str, str], Any]]:
    """What only some kinds know; what no kind knows any more is left out."""
    out = []
    for row in listed if isinstance(listed, list) else ():
        if isinstance(row, list) and len(row) == 3 and (field := KINDS[row[0]].own.get(row[1]) if row[0] in KINDS else None):
            out.append(((str(row[0]), str(row[1])), field.checked(field.taken(row[2], f"“{row[1]}” of the pass"))))
    return out
