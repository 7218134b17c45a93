"""The words of the small grammar by which pictures are edited: verbs, places, sizes, and how clauses are told apart."""

from __future__ import annotations

import re

#: How things lie to others.
LEFT, RIGHT, ABOVE, BELOW, BESIDE, FRONT, BEHIND, ON, BETWEEN, AT = (
    "left", "right", "above", "below", "beside", "front", "behind", "on", "between", "at",
)  # fmt: skip
NUMBERS = dict(zip(["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"], range(1, 11), strict=True)) | {
    **dict.fromkeys(("a", "an", "another"), 1),
    **dict.fromkeys(("couple", "pair", "both"), 2),
    **dict.fromkeys(("some", "several", "few"), 3),
}
POLITE = re.compile(
    r"^(?:(?:and|then|now|please|also|just|next|finally|first|but|so|maybe|could you|can you|would you|will you|i want you to"
    r"|i would like you to|i'd like you to|we need to|you should|let us|let's|kindly|quickly)\s+)+"
)
VERBS = [
    "add",
    "put",
    "place",
    "draw",
    "paint",
    "insert",
    "bring",
    "plant",
    "give",
    "show",
    "set",
    "remove",
    "delete",
    "erase",
    "take",
    "get",
    "clear",
    "drop",
    "wipe",
    "let",
    "make",
    "move",
    "shift",
    "push",
    "pull",
    "drag",
    "slide",
    "carry",
    "nudge",
    "lift",
    "raise",
    "lower",
    "enlarge",
    "shrink",
    "grow",
    "double",
    "halve",
    "scale",
    "colour",
    "color",
    "dye",
    "tint",
    "turn",
    "change",
    "recolour",
    "recolor",
    "replace",
    "swap",
    "exchange",
    "substitute",
    "transform",
    "touch",
    "sharpen",
    "repaint",
    "redo",
    "improve",
    "fix",
    "i",
    "it",
    "no",
    "there",
    "copy",
    "duplicate",
    "hide",
    "convert",
    "switch",
    "use",
    "we",
    "cut",
    "have",
]
NEXT = rf"(?:{'|'.join(VERBS)})\b"
CUT = re.compile(rf"\s*(?:;|\.(?=\s|$)|!|,?\s+(?:and\s+)?then\b|,?\s+and\b(?=\s+{NEXT})|,(?=\s*(?:and\s+)?{NEXT}))\s*")
SIDES = {
    "left": (0.18, None), "right": (0.82, None), "top": (None, 0.15), "upper": (None, 0.2), "bottom": (None, 0.85), "lower": (None, 0.8),
    "middle": (0.5, None), "centre": (0.5, None), "center": (0.5, None), "sky": (None, 0.18), "background": (None, 0.5),
    "foreground": (None, 0.88), "distance": (None, 0.45), "ground": (None, 0.85), "front": (None, 0.88), "back": (None, 0.5),
}  # fmt: skip
REGION = re.compile(
    r"\b(?:(?:over|up|down|all the way|far|more|further|farther)\s+)*(?:in|into|to|at|on|onto|towards?|from)\s+the\s+(?:very\s+|far\s+)?"
    r"((?:upper|lower|top|bottom|left|right|middle|centre|center)(?:[\s-]+(?:left|right|middle|centre|center))?|sky|background|foreground|distance"
    r"|ground|front|back)(?:\s+(?:hand\s+)?(?:side|corner|edge|half|part|third))?(?:\s+of\s+(?:it|the\s+(?:picture|sheet|scene|image)))?(?=\s|$)(?!\s+of\b)"
)
RELATIONS = (
    (re.compile(r"\b(?:(?:to|on|at)\s+the\s+)?left(?:\s+(?:hand\s+)?side)?\s+of\b"), LEFT),
    (re.compile(r"\b(?:(?:to|on|at)\s+the\s+)?right(?:\s+(?:hand\s+)?side)?\s+of\b"), RIGHT),
    (re.compile(r"\b(?:in|to the)\s+front\s+of\b|\bbefore\b"), FRONT),
    (re.compile(r"\bbehind\b|\bin\s+back\s+of\b|\bat\s+the\s+back\s+of\b"), BEHIND),
    (re.compile(r"\b(?:on|onto)\s+top\s+of\b|\bup\s+on\b|\bonto\b"), ON),
    (re.compile(r"\babove\b|\bover\b|\bhigh\s+over\b"), ABOVE),
    (re.compile(r"\bbelow\b|\bunder\b|\bbeneath\b|\bunderneath\b"), BELOW),
    (re.compile(r"\b(?:in\s+)?between\b"), BETWEEN),
    (
        re.compile(
            r"\bbeside\b|\bnext\s+to\b|\bnear\s+to\b|\bnear\b|\bclose\s+to\b|\balongside\b|\bnearby\b|\bat\s+the\s+side\s+of\b|\bby\b"
        ),
        BESIDE,
    ),
    (re.compile(r"\bon\b|\bin\b(?=\s+the)"), ON),
    (re.compile(r"\bat\b|\bto\b|\btowards?\b"), BESIDE),
)  # fmt: skip
WAYS = {
    "left": (-1, 0), "leftwards": (-1, 0), "right": (1, 0), "rightwards": (1, 0), "up": (0, -1), "upwards": (0, -1), "higher": (0, -1),
    "down": (0, 1), "downwards": (0, 1), "lower": (0, 1),
}  # fmt: skip
LITTLE, MUCH = (
    re.compile(r"\b(?:a\s+(?:little|bit|touch)|slightly|somewhat)\b(?:\s+more)?"),
    re.compile(r"\b(?:much|far|a\s+lot|way|further|farther)\b"),
)
SIZES = {
    **dict.fromkeys(("bigger", "larger", "big", "large", "taller"), 1.4),
    **dict.fromkeys(("smaller", "small", "little", "shorter"), 0.7),
    "huge": 1.9,
    "enormous": 2.0,
    "tiny": 0.45,
}
SHALL = re.compile(
    r"((?:the|this|that|these|those|all|both|every|his|her)\b.+?)\s+(?:should|shall|must|has\s+to|have\s+to|ought\s+to|needs?\s+to|is\s+to)"
    r"\s+(?:be\s+|become\s+|get\s+)?(.+)"
)
WISHED = re.compile(r"(?:i|we)(?:\s+would|'d)?\s+(?:want|like|need)\s+(.+?)\s+to\s+(?:be|become|look|get)\s+(.+)")
STANDING = re.compile(r"(?:let|have)\s+(an?\s+.+?)\s+(?:stand|sit|lie|be|hang|float|swim|grow|rest|play|walk)\s+(.+)")
INSTEAD = re.compile(r"\binstead\s+of\s+([^,.;]+?),?\s+(?:put|paint|draw|place|show|add|give\s+me|i\s+want)\s+")
GONE = re.compile(r"^(?:disappear|vanish|go(?: away)?|leave|be gone)$")
EVERYTHING = (
    r"(?:it|this|everything|all|the\s+(?:whole\s+)?(?:picture|scene|image|sheet|painting|weather|season|sky|time(?:\s+of\s+day)?|light|style"
    r"|look|drawing|thing)|the\s+whole)"
)
PLURALS = {"men": "man", "women": "woman", "children": "child", "geese": "goose", "mice": "mouse", "oxen": "ox", "people": "person"}
SMALL = frozenset(
    ("of", "the", "a", "an", "its", "his", "her", "their", "this", "that", "these", "those", "my", "our", "any", "every", "each", "all")
)
