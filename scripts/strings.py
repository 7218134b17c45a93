"""Writes all that the program says into a translation file for Qt Linguist: `python scripts/strings.py waldrand_de.ts [--language de]`.

What is there already keeps its translation. The finished file goes through `lrelease`, and the .qm beside the others in
src/waldrand/data/languages.
"""

from __future__ import annotations

import argparse
import ast
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src" / "waldrand"
CONTEXT = "Waldrand"
#: Names of values that are said as they stand: of tools, kinds of pass and fields, and of lists of words in modules.
SAID = {"title", "tip", "hint", "label", "says"}


def words(node: ast.expr | None) -> Iterator[str]:
    """The texts in a literal."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        yield node.value
    elif isinstance(node, ast.Tuple | ast.List):
        for one in node.elts:
            yield from words(one)
    elif isinstance(node, ast.Dict):
        for one in node.values:
            yield from words(one)


def found_in(path: Path) -> Iterator[tuple[str, int]]:
    """What a module says, and the lines where."""
    tree = ast.parse(path.read_text("utf-8"))
    used = {
        a.id for n in ast.walk(tree) if isinstance(n, ast.Call) and _name(n) == "worded" for a in ast.walk(n) if isinstance(a, ast.Name)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Call):
            if _name(node) == "worded" and node.args:
                yield from ((text, node.lineno) for text in words(node.args[0]))
            # The fields of settings, kinds and elements say what they are called.
            yield from ((text, node.lineno) for k in node.keywords if k.arg in SAID for text in words(k.value))
            if _name(node) in ("whole", "number", "choice"):
                yield from ((text, node.lineno) for arg in node.args[-1:] for text in words(arg))
        elif isinstance(node, ast.Assign):
            names = {t.id for target in node.targets for t in ast.walk(target) if isinstance(t, ast.Name)}
            if names & SAID or names & used:
                yield from ((text, node.lineno) for text in words(node.value))
        elif isinstance(node, ast.Tuple) and path.name == "menus.py":
            # An entry of a menu begins with its name.
            yield from ((text, node.lineno) for text in words(node.elts[0] if node.elts else None))


def _name(call: ast.Call) -> str:
    return call.func.attr if isinstance(call.func, ast.Attribute) else call.func.id if isinstance(call.func, ast.Name) else ""


def all_found() -> dict[str, list[tuple[str, int]]]:
    """By text, the places where it is said."""
    out: dict[str, list[tuple[str, int]]] = {}
    for path in sorted(SOURCE.rglob("*.py")):
        for text, line in found_in(path):
            if any(c.isalpha() for c in text):
                out.setdefault(text, []).append((str(path.relative_to(SOURCE.parent.parent)), line))
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("file", type=Path)
    parser.add_argument("--language", default="de")
    options = parser.parse_args()
    known: dict[str, str] = {}
    if options.file.exists():
        for message in ET.parse(options.file).getroot().iter("message"):
            known[message.findtext("source", "")] = message.findtext("translation", "")
    root = ET.Element("TS", version="2.1", language=options.language, sourcelanguage="en")
    context = ET.SubElement(root, "context")
    ET.SubElement(context, "name").text = CONTEXT
    found = all_found()
    for text, places in found.items():
        message = ET.SubElement(context, "message")
        for name, line in places:
            ET.SubElement(message, "location", filename=name, line=str(line))
        ET.SubElement(message, "source").text = text
        translation = ET.SubElement(message, "translation")
        translation.text = known.get(text, "")
        if not translation.text:
            translation.set("type", "unfinished")
    ET.indent(root)
    options.file.write_bytes(b"<!DOCTYPE TS>\n" + ET.tostring(root, encoding="utf-8"))
    print(f"{len(found)} texts, {sum(bool(known.get(t)) for t in found)} of them translated, in {options.file}")


if __name__ == "__main__":
    main()
