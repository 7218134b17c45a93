"""What a value may be, written down once beside its name: refusals, files, the command line and the window all read it from there.

@dataclass(frozen=True)
class Settings:
    steps: int = whole(20, 1, 200, "Steps go", label="steps", tip="more is slower")

check(Settings(steps=20))
from_values(Settings, {"steps": 5}, "the pass")
"""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from .refused import Refused
from .worded import worded

T = TypeVar("T")
Read = Literal["whole", "number", "choice", "flag", "words", "spans", "pairs", "box", "order", "numbers"]
KEY = "field"


@dataclass(frozen=True)
class Field:
    """read: what is taken for a value; says: how a refusal of one outside its range begins ("Steps go", which becomes "Steps go from 1
    to 200; 500 is outside."), {whose} standing for what it belongs to; optional: whether None is a value too; choices: those there
    are, each with its name in the window; label, tip: in the window; option: what the command line says of it, empty where it is no
    option there; step, decimals: of a number that is turned; own: whether it is kept in files of layouts; told: whether the model
    is told otherwise when it changes."""

    read: Read
    default: Any
    least: float = -math.inf
    most: float = math.inf
    says: str = ""
    optional: bool = False
    choices: tuple[tuple[str, str], ...] = ()
    label: str = ""
    tip: str = ""
    option: str = ""
    step: float = 1.0
    decimals: int = 0
    told: bool = False

    def _says(self, whose: str) -> str:
        """How a refusal begins."""
        return worded(self.says).format(whose=whose)

    def checked(self, value: Any, whose: str = "") -> Any:
        """The value, where it is one.

        Raises:
            Refused: it is outside its range, or none of the choices.
        """
        if value is None and self.optional:
            return value
        if self.read in ("whole", "number") and not self.least <= value <= self.most:
            if self.read == "whole" and self.least == 0:
                raise Refused(worded("{0} a whole number from 0 to {1:.0f}, not {2}.", self._says(whose), self.most, value))
            raise Refused(worded("{0} from {1:g} to {2:g}; {3:g} is outside.", self._says(whose), self.least, self.most, value))
        if self.read == "choice" and value not in dict(self.choices):
            raise Refused(worded("{0} “{1}”; choose one of {2}.", self._says(whose), value, ", ".join(dict(self.choices))))
        if self.read == "order" and (len(set(value)) < len(value) or not set(value) <= set(dict(self.choices))):
            raise Refused(worded("{0} each of {1} once at most, not {2}.", self._says(whose), ", ".join(dict(self.choices)), list(value)))
        if self.read == "box" and not (value[0] < value[2] and value[1] < value[3]):
            raise Refused(worded("{0} left, upper, right and lower edge, in that order; {1} is none.", self._says(whose), list(value)))
        return value

    def taken(self, value: Any, what: str) -> Any:
        """A value from a file or another source that cannot be trusted, of its own type. what: how a refusal names it.

        Raises:
            Refused: it is of another type, or a number too large for one.
        """
        if value is None and self.optional:
            return None
        match self.read:
            case "whole":
                return taken_whole(value, what)
            case "number":
                return taken_number(value, what)
            case "flag":
                if not isinstance(value, bool):
                    raise Refused(f"{what} is true or false, not {value!r}.")
                return value
            case "words" | "choice":
                return taken_words(value, what)
            case "spans":
                rows = _rows(value, 3, f"{what} has to be [[from, to, factor], ...], from and to counted in characters of the words.")
                return tuple((taken_whole(a, what), taken_whole(b, what), taken_number(f, what)) for a, b, f in rows)
            case "pairs":
                rows = _rows(value, 2, f"{what} has to be [[key, seed], ...].")
                return tuple((taken_whole(a, what), None if b is None else taken_whole(b, what)) for a, b in rows)
            case "box":
                (edges,) = _rows([value], 4, f"{what} has to be four edges: left, upper, right, lower.")
                return tuple(taken_whole(edge, what) for edge in edges)
            case "numbers":
                listed = value if isinstance(value, tuple) else taken_list(value, what)
                return tuple(taken_whole(n, what) for n in listed)
            case "order":
                return tuple(taken_words(word, what) for word in (value if isinstance(value, tuple) else taken_list(value, what)))

    def plain(self, value: Any) -> Any:
        """A value as files hold it."""
        if self.read in ("spans", "pairs"):
            return [list(row) for row in value]
        return list(value) if self.read in ("box", "order", "numbers") and value is not None else value

    def typed(self, text: str) -> Any:
        """A value as it was typed, "on" and "off" for flags.

        Raises:
            Refused: it is none.
        """
        match self.read:
            case "flag":
                if text not in ("on", "off"):
                    raise Refused(f"{self.label.capitalize()} are on or off, not “{text}”.")
                return text == "on"
            case "whole" | "number":
                try:
                    return int(text) if self.read == "whole" else float(text)
                except ValueError as error:
                    raise Refused(f"“{self.label} {text}” is not a number that can be used here.") from error
            case "box":
                try:
                    edges = tuple(int(edge) for edge in text.split(","))
                except ValueError:
                    edges = ()
                if len(edges) != 4:
                    raise Refused(f"“{text}” is no {self.label}: write left, upper, right, lower edge in pixels, like 0,0,320,200.")
                return edges
            case "numbers":
                said = text.replace(",", " ").split()
                if not all(piece.isdecimal() and len(piece) < 6 for piece in said):
                    raise Refused(f"“{text}” are no numbers: write 2,5.")
                return tuple(map(int, said))
            case _:
                return text


def _rows(value: Any, length: int, refusal: str) -> list[Any]:
    if not isinstance(value, list | tuple) or not all(isinstance(row, list | tuple) and len(row) == length for row in value):
        raise Refused(refusal)
    return list(value)


def taken_number(value: Any, what: str) -> float:
    """Raises Refused when a value that cannot be trusted is no finite number."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e300 or value != value:
        raise Refused(f"{what} has to be a number, not {_shown(value)}.")
    return float(value)


def taken_whole(value: Any, what: str) -> int:
    """Raises Refused when a value that cannot be trusted is no whole number that fits into 64 bits."""
    if isinstance(value, bool) or not isinstance(value, int) or not abs(value) < 2**63:
        raise Refused(f"{what} has to be a whole number, not {_shown(value)}.")
    return value


def taken_words(value: Any, what: str) -> str:
    """Raises Refused when a value that cannot be trusted is no text, or one that cannot be written again."""
    if not isinstance(value, str) or (not value.isprintable() and any("\ud800" <= c <= "\udfff" for c in value)):
        raise Refused(f"{what} has to be words in quotes, not {_shown(value)}.")
    return value


def taken_table(value: Any, what: str) -> dict[str, Any]:
    """Raises Refused when a value that cannot be trusted is no table."""
    if not isinstance(value, dict):
        raise Refused(f"{what} has to be a table, not {_shown(value)}.")
    return value


def taken_list(value: Any, what: str) -> list[Any]:
    """Raises Refused when a value that cannot be trusted is no list."""
    if not isinstance(value, list):
        raise Refused(f"{what} has to be a list, not {_shown(value)}.")
    return value


def needed(table: Mapping[str, Any], key: str, what: str) -> Any:
    """Raises Refused when a table that cannot be trusted lacks a key."""
    if key not in table:
        raise Refused(f"{what} lacks “{key}”.")
    return table[key]


def _shown(value: Any) -> str:
    text = ascii(value) if isinstance(value, str | bool | float) or value is None else type(value).__name__
    return text if len(text) <= 60 else f"{text[:57]}..."


def _made(field: Field) -> Any:
    return dataclasses.field(default=field.default, metadata={KEY: field})


def whole(default: Any, least: float, most: float, says: str, **more: Any) -> Any:
    """A whole number."""
    return _made(Field("whole", default, least, most, says, **more))


def number(default: Any, least: float, most: float, says: str, **more: Any) -> Any:
    """A number."""
    return _made(Field("number", default, least, most, says, **more))


def choice(default: str, choices: Iterable[tuple[str, str]], says: str, **more: Any) -> Any:
    """One of some words."""
    return _made(Field("choice", default, choices=tuple(choices), says=says, **more))


def flag(default: bool, **more: Any) -> Any:
    """On or off."""
    return _made(Field("flag", default, **more))


def text(default: str = "", **more: Any) -> Any:
    """Words."""
    return _made(Field("words", default, **more))


def spans(**more: Any) -> Any:
    """Emphasis: spans of words with factors."""
    return _made(Field("spans", (), **more))


def pairs(**more: Any) -> Any:
    """Keys, each with a seed or None."""
    return _made(Field("pairs", (), **more))


def box(says: str, **more: Any) -> Any:
    """A rectangle on the sheet, x0, y0, x1, y1, or none."""
    return _made(Field("box", None, says=says, optional=True, **more))


def fields_of(of: Any) -> dict[str, Field]:
    """The fields of a value's class that are written down so, by name."""
    return {f.name: f.metadata[KEY] for f in dataclasses.fields(of) if KEY in f.metadata}


def check(of: Any, whose: str = "") -> None:
    """Raises Refused when one of a value's fields is not what it may be."""
    for name, field in fields_of(of).items():
        field.checked(getattr(of, name), whose)


def to_values(of: Any, *leave_out: str) -> dict[str, Any]:
    """All of a value's fields as files hold them."""
    return {name: field.plain(getattr(of, name)) for name, field in fields_of(of).items() if name not in leave_out}


def unusual(of: Any) -> dict[str, Any]:
    """Those of a value's fields that are not as they are by default, as files hold them."""
    return {name: v for name, v in to_values(of).items() if getattr(of, name) != fields_of(of)[name].default}


def taken_values(cls: type, d: Mapping[str, Any], where: str) -> dict[str, Any]:
    """The fields of a class out of a table that cannot be trusted; keys that are no fields are left to others. where: how a refusal
    names the table: “steps” of {where}.

    Raises:
        Refused: a value of another type.
    """
    return {name: field.taken(d[name], f"“{name}” of {where}") for name, field in fields_of(cls).items() if name in d}


def from_values(cls: type[T], d: Mapping[str, Any], where: str) -> T:
    """The inverse of `to_values`; what is missing is as by default.

    Raises:
        Refused: a value of another type or outside its range, or a key that is no field.
    """
    refuse_unknown(d, fields_of(cls), where)
    return cls(**taken_values(cls, d, where))


def refuse_unknown(table: Mapping[str, Any], known: Iterable[str], where: str) -> None:
    """Raises Refused when a table has a key that is not known."""
    known = tuple(known)
    for key in table:
        if key not in known:
            raise Refused(f"{where[:1].upper()}{where[1:]} has a key that is not known: {_shown(key)}. Known are {', '.join(known)}.")
