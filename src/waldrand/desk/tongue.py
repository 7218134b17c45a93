"""The language of the window: that of the desktop where there is a translation, else English."""

from __future__ import annotations

from importlib.resources import files

from PyQt6.QtCore import QCoreApplication, QLocale, QTranslator

from ..core.worded import speak

CONTEXT = "Waldrand"
#: Translators belong to the program for as long as it runs.
_KEPT: list[QTranslator] = []


def speak_as(locale: QLocale) -> bool:
    """Everything is said in a locale's language from now on; False: there is no translation into it."""
    translator = QTranslator()
    found = translator.load(locale, "waldrand", "_", str(files("waldrand") / "data" / "languages"), ".qm")
    if found:
        _KEPT.append(translator)
        QCoreApplication.installTranslator(translator)
    speak(lambda template: QCoreApplication.translate(CONTEXT, template))
    return found
