"""The house: which room may reach into which, and what nobody may do."""

from __future__ import annotations

import ast
import re
import socket
import subprocess
import sys
from pathlib import Path

import pytest

import waldrand

SOURCE = Path(waldrand.__file__).parent
#: The rooms of the core, lowest first: each may import itself and those before it.
CORE = ("refused", "worded", "fields", "picture", "noise", "values", "packs", "told", "seen", "passes")
#: The other rooms, and which of them they may import.
ROOMS = {
    "core": {"core"},
    "packs": {"core", "packs"},
    "files": {"core", "files"},
    "desk": {"core", "packs", "files", "desk", "demo", "log"},
    "far": {"core", "packs", "far"},
    "commands": {"core", "packs", "files", "far", "desk", "demo", "commands"},
}
#: Functions that are tables of data may be long.
LONGEST, MOST_METHODS, MOST_LINES = 60, 25, 500


def modules() -> dict[str, ast.Module]:
    """Every module of the source by its dotted name below the package."""
    out = {}
    for path in SOURCE.rglob("*.py"):
        parts = path.relative_to(SOURCE).with_suffix("").parts
        out[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = ast.parse(path.read_text("utf-8"))
    return out


MODULES = modules()
PACKAGES = {name for name in MODULES if any(other.startswith(f"{name}.") for other in MODULES)} | {""}


def imported(name: str) -> set[str]:
    """What a module imports of the package, wherever in it, by dotted names below the package."""
    out = set()
    for node in ast.walk(MODULES[name]):
        if isinstance(node, ast.ImportFrom):
            parts = name.split(".") if name else []
            base = [] if not node.level else (parts if name in PACKAGES else parts[:-1])
            base = base[: len(base) - node.level + 1] if node.level else base
            module = node.module or ""
            if not node.level:
                if not module.startswith("waldrand"):
                    continue
                module = module.removeprefix("waldrand").removeprefix(".")
            target = ".".join([*base, *([module] if module else [])])
            within = {f"{target}.{a.name}".strip(".") for a in node.names}
            out |= (within & MODULES.keys()) or {target}
    return out


def outside(name: str) -> set[str]:
    """The packages from elsewhere that a module imports."""
    out = set()
    for node in ast.walk(MODULES[name]):
        if isinstance(node, ast.Import):
            out |= {a.name.split(".")[0] for a in node.names}
        elif isinstance(node, ast.ImportFrom) and not node.level and node.module:
            out.add(node.module.split(".")[0])
    return out


def test_no_room_of_the_core_imports_one_above_it():
    wrong = []
    for name in MODULES:
        if name.startswith("core."):
            mine = CORE.index(name.split(".")[1])
            for other in imported(name):
                parts = other.split(".")
                if parts[0] == "core" and len(parts) > 1 and CORE.index(parts[1]) > mine:
                    wrong.append(f"{name} imports {other}")
    assert wrong == []


def test_rooms_import_only_what_they_may():
    wrong = []
    for name in MODULES:
        room = name.split(".")[0]
        if room in ROOMS:
            wrong += [f"{name} imports {other}" for other in imported(name) if other and other.split(".")[0] not in ROOMS[room]]
    assert wrong == []


def test_no_two_modules_import_each_other():
    arrows = {name: imported(name) - {name} for name in MODULES}
    assert [(a, b) for a in arrows for b in arrows[a] if a < b and a in arrows.get(b, ())] == []


def test_the_core_uses_arrays_and_nothing_else():
    standard = set(sys.stdlib_module_names) - {"socket", "ssl", "http", "urllib", "ftplib", "smtplib", "asyncio", "subprocess", "sqlite3"}
    files = {"os", "pathlib", "tempfile", "shutil", "io", "zipfile", "tomllib", "configparser"}
    for name in MODULES:
        if name.startswith("core"):
            assert outside(name) <= (standard - files) | {"numpy", "scipy", "waldrand"}, name


@pytest.mark.parametrize("room", ["core", "packs", "files", "commands"])
def test_only_the_desk_knows_qt(room):
    assert [name for name in MODULES if name.startswith(room) and "PyQt6" in outside(name)] == []


def test_importing_the_core_brings_no_window_no_pictures_files_and_no_network():
    """In a process of its own: what is imported here already would hide it."""
    names = ", ".join(f"waldrand.{name}" for name in MODULES if name.startswith("core."))
    kept_out = ("PyQt6", "PIL", "onnxruntime", "socket", "waldrand.files", "waldrand.packs")
    code = f"import {names}, sys; print([m for m in {kept_out} if m in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    # NumPy and the standard library may bring sockets along; nothing of ours opens one.
    assert set(ast.literal_eval(done.stdout)) <= {"socket"}


def test_nothing_opens_a_socket(tmp_path, monkeypatch, closed, placed):
    from waldrand.cli import main
    from waldrand.files.layout import write_layout

    def refuse(*args, **kwargs):
        raise AssertionError("a socket was opened")

    for act in ("connect", "connect_ex", "bind"):
        monkeypatch.setattr(socket.socket, act, refuse)
    monkeypatch.setattr("waldrand.commands.options.open_pack", lambda folder=None: closed)
    write_layout(tmp_path / "l.toml", placed)
    assert main(["run", str(tmp_path / "l.toml"), "--steps", "2", "--out", str(tmp_path / "o")]) == 0
    assert main(["repeat", str(tmp_path / "o" / "take-0.png")]) == 0


def test_nothing_outside_kinds_asks_which_kind_a_pass_is():
    asks = re.compile(r"kind\s*(?:==|!=|in)\s*[(\"']")
    there = [str(p) for p in SOURCE.rglob("*.py") if "kinds" not in p.parts and asks.search(p.read_text("utf-8"))]
    assert there == []


def test_functions_and_classes_are_short():
    wrong = []
    for name, tree in MODULES.items():
        for node in ast.walk(tree):
            if isinstance(node, (ast.FunctionDef, ast.ClassDef)):
                lines = (node.end_lineno or 0) - node.lineno + 1
                if isinstance(node, ast.FunctionDef) and lines > LONGEST:
                    wrong.append(f"{name}.{node.name}: {lines} lines")
                if isinstance(node, ast.ClassDef):
                    methods = sum(isinstance(x, ast.FunctionDef) for x in node.body)
                    if methods > MOST_METHODS or lines > MOST_LINES:
                        wrong.append(f"{name}.{node.name}: {methods} methods, {lines} lines")
    assert wrong == []


def test_layers_are_told_apart_only_where_they_are_made():
    told = re.compile(r"isinstance\([^)]*(?:PictureLayer|Patch)\b")
    there = [str(p) for p in SOURCE.rglob("*.py") if p.name != "layers.py" and told.search(p.read_text("utf-8"))]
    assert there == []
