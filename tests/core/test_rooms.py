"""Imports run one way."""

import ast
import subprocess
import sys
from pathlib import Path

import pytest

import sketchloom

ROOT = Path(sketchloom.__file__).parent
ORDER = [
    "picture",
    "worn",
    "regions",
    "survey",
    "planar",
    "curves",
    "tidy",
    "stock",
    "logbook",
    "cut",
    "layers",
    "inspect",
    "sheets",
    "machine",
    "elsewhere",
    "send",
    "paper",
    "job",
]
BASE = {"errors", "arrays", "opening", "units", "measures", "progress", "colour", "palette", "scale", "threads"}


def imports_of(file: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            found |= {node.module, *(f"{node.module}.{alias.name}" for alias in node.names)}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
    return found


def test_no_core_room_imports_one_to_its_right():
    files = list((ROOT / "core").rglob("*.py"))
    assert len(files) > 20
    for file in files:
        room = file.relative_to(ROOT / "core").parts[0].removesuffix(".py")
        allowed = BASE if room in BASE else BASE | set(ORDER[: ORDER.index(room) + 1]) if room in ORDER else BASE
        for name in imports_of(file):
            parts = name.split(".")
            if parts[:2] == ["sketchloom", "core"] and len(parts) > 2:
                assert parts[2] in allowed, f"{file} imports {name}"


def test_core_imports_neither_qt_nor_cli_nor_app():
    for file in (ROOT / "core").rglob("*.py"):
        for name in imports_of(file):
            assert not name.startswith(("PySide6", "sketchloom.app", "sketchloom.cli")), f"{file} imports {name}"


def test_cli_and_app_import_nothing_of_each_other_but_the_start():
    for file in (ROOT / "cli").rglob("*.py"):
        app = {n for n in imports_of(file) if n.startswith("sketchloom.app")}
        assert app <= {"sketchloom.app.start", "sketchloom.app.start.open_window"}
    for file in (ROOT / "app").rglob("*.py"):
        assert not any(n.startswith("sketchloom.cli") for n in imports_of(file))


def modules() -> dict[str, Path]:
    found = {}
    for file in ROOT.rglob("*.py"):
        parts = ["sketchloom", *file.relative_to(ROOT).with_suffix("").parts]
        found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = file
    return found


def at_once(file: Path) -> set[str]:
    """What a module imports when it is imported itself, and not only when one of its functions runs."""
    tree = ast.parse(file.read_text("utf-8"))
    found = set()
    for node in tree.body:
        if isinstance(node, ast.ImportFrom) and node.module:
            found |= {node.module, *(f"{node.module}.{alias.name}" for alias in node.names)}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
    return found


def test_no_module_imports_itself_by_way_of_others():
    files = modules()
    needs = {name: (at_once(file) & files.keys()) - {name} for name, file in files.items()}
    for name, file in files.items():  # a room's own modules go before what the room shows of them
        if file.name == "__init__.py":
            continue
        room = name.rpartition(".")[0]
        assert room not in needs[name], f"{name} imports its own room whole"
    done: set[str] = set()
    while len(done) < len(files):
        free = {name for name in files.keys() - done if needs[name] <= done}
        assert free, f"a circle: {sorted(files.keys() - done)}"
        done |= free


def test_a_plain_trace_needs_nothing_of_scipy(tmp_path):
    # it takes as long to import as a small picture takes to trace
    words = ["sketch-loom", "trace", str(ROOT / "demo" / "fair-badge.png"), "-o", str(tmp_path / "a.svg")]
    code = (
        "import sys; from sketchloom.cli.main import main\n"
        f"sys.argv = {words}\n"
        "try: main()\n"
        "except SystemExit as end: assert not end.code, end.code\n"
        "assert not [name for name in sys.modules if name.split('.')[0] == 'scipy']"
    )
    subprocess.run([sys.executable, "-c", code], check=True)
    assert (tmp_path / "a.svg").exists()


@pytest.mark.skipif(not sys.platform.startswith("linux"), reason="the C library of other systems")
def test_large_arrays_lie_in_memory_that_stays():
    """As mallinfo2(3) of the C library tells: no block is mapped by itself, to be given back at once."""
    code = (
        "import ctypes, sys, numpy as np; from sketchloom.memory import keep_freed_memory\n"
        "class Info(ctypes.Structure): _fields_ = [(n, ctypes.c_size_t) for n in 'abcdefghij']\n"
        "told = getattr(ctypes.CDLL(None), 'mallinfo2', None)\n"
        "asked = sys.argv[1] == '1' and keep_freed_memory(1 << 30)\n"
        "if told is None: print('unknown'); sys.exit()\n"
        "told.restype = Info; before = told().e; held = np.ones(3_000_000); print(int(asked), told().e - before)"
    )
    (_, plain), (asked, kept) = (
        subprocess.run([sys.executable, "-c", code, way], capture_output=True, text=True, check=True).stdout.split()
        for way in "01"
    )
    assert int(plain) >= 24_000_000
    assert asked == "1" and kept == "0"
