"""The world's words: what things are called, and which other words mean the same."""

from __future__ import annotations

COLOURS: dict[str, tuple[float, float, float]] = {
    "red": (198, 52, 48),
    "orange": (232, 136, 48),
    "yellow": (240, 202, 76),
    "green": (78, 146, 84),
    "blue": (62, 108, 196),
    "purple": (136, 84, 168),
    "white": (240, 238, 230),
    "brown": (128, 84, 56),
    "grey": (138, 140, 146),
}
PAINTED = tuple(c for c in COLOURS if c not in ("brown", "grey"))

SKIES = ("clear day", "dawn", "sunset", "starry night", "storm", "fog")
GROUNDS = ("meadow", "snow field", "lake", "beach")
FAR = ("mountains", "hills", "forest", "path")
ATTRIBUTES = ("facing", "left", "right", "lit", "windows")

#: Written words or phrases -> the world's own phrase.
SYNONYMS: dict[str, str] = {
    "house": "cottage", "hut": "cottage", "cabin": "cottage", "home": "cottage",
    "rabbit": "hare", "bunny": "hare",
    "stag": "deer", "doe": "deer", "roe": "deer",
    "vixen": "fox", "birch tree": "birch", "pine tree": "pine", "fir": "pine", "fir tree": "pine",
    "spruce": "pine", "conifer": "pine", "round tree": "tree", "oak": "tree", "apple tree": "tree",
    "lamp": "lantern", "street lamp": "lantern", "lamp post": "lantern", "lantern post": "lantern",
    "sailboat": "sailing boat", "yacht": "sailing boat", "sailing ship": "sailing boat",
    "rowboat": "rowing boat", "dinghy": "rowing boat",
    "hot-air balloon": "balloon", "hot air balloon": "balloon",
    "full moon": "moon", "new moon": "crescent moon", "moon crescent": "crescent moon",
    "beacon": "lighthouse", "boulder": "rock", "stone": "rock", "rocks": "rock",
    "railing": "fence", "paling": "fence", "sign": "signpost", "way sign": "signpost",
    "blossoms": "flowers", "flower": "flowers", "blooms": "flowers",
    "tipi": "tent", "clouds": "cloud",
    "mountain": "mountains", "peaks": "mountains", "hill": "hills", "downs": "hills",
    "woods": "forest", "wood": "forest", "treeline": "forest",
    "road": "path", "trail": "path", "track": "path", "way": "path",
    "grass": "meadow", "field": "meadow", "pasture": "meadow", "lawn": "meadow",
    "snow": "snow field", "winter": "snow field", "snowfield": "snow field",
    "water": "lake", "sea": "lake", "pond": "lake", "river": "lake",
    "sand": "beach", "shore": "beach", "coast": "beach",
    "day": "clear day", "noon": "clear day", "blue sky": "clear day", "clear sky": "clear day",
    "daylight": "clear day", "morning": "dawn", "sunrise": "dawn", "dusk": "sunset",
    "evening": "sunset", "night": "starry night", "dark": "starry night", "stars": "starry night",
    "midnight": "starry night", "stormy": "storm", "rain": "storm", "thunder": "storm",
    "mist": "fog", "misty": "fog", "foggy": "fog", "haze": "fog",
    "gray": "grey", "violet": "purple", "lilac": "purple", "scarlet": "red", "crimson": "red",
    "golden": "yellow", "azure": "blue", "looking left": "facing left",
    "looking right": "facing right", "glowing": "lit", "lighted": "lit", "window": "windows",
}

#: Small words that carry no picture.
IGNORED = ("a", "an", "the", "of", "in", "on", "at", "by", "with", "and", "under", "over", "its",
           "near", "to", "some", "one", "is", "are", "sky", "scene", "picture", "illustration")


def vocabulary(things: tuple[str, ...]) -> list[str]:
    """All single words the model is taught, in a fixed order; index 0 is kept for "nothing"."""
    words: dict[str, None] = {"": None}
    for phrase in (*COLOURS, *SKIES, *GROUNDS, *FAR, *ATTRIBUTES, *things):
        for word in phrase.split():
            words.setdefault(word, None)
    return list(words)
