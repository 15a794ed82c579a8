"""Redraw docs/screenshots from the demo job; run ``make shots``."""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()

import msgspec

from sketchloom.app.start import make_application
from sketchloom.app.theme import theme
from sketchloom.app.window import Window
from sketchloom.core.logbook import Entry
from sketchloom.core.picture import ClearBox
from sketchloom.core.stock import Preset

DEMO = Path(__file__).resolve().parent.parent / "src" / "sketchloom" / "demo"
OUT = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def wait(until: Callable[[], bool], seconds: float = 30) -> None:
    """Let the window work until something is so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        if until():
            return
        time.sleep(0.01)
    raise SystemExit("the window did not get there")


def settle(window: Window) -> None:
    """Wait for the full result and for the flashes to end."""
    wait(lambda: not window.model.stale)
    end = time.monotonic() + 2.3
    wait(lambda: time.monotonic() > end)


def shot(window: Window, name: str) -> None:
    """Save a picture of the window, once it is laid out."""
    end = time.monotonic() + 0.2
    wait(lambda: time.monotonic() > end)
    window.grab().save(str(OUT / f"{name}.png"))
    print(OUT / f"{name}.png")


def open_picture(window: Window, name: str) -> None:
    """Open one of the demo's pictures."""
    window.open(DEMO / name)
    title = Path(name).stem.replace("-", " ").capitalize()
    wait(lambda: window.job_name.text() == title)
    settle(window)


def badge(window: Window) -> None:
    """Every step with the fair's badge."""
    for look in ("light", "dark"):
        theme.choose(look)
        if window.model.job is None:
            shot(window, f"empty-{look}")
            window.open_demo()
        settle(window)
        for place, step in enumerate(window.steps):
            window.show_step(step.key)
            window.lift.setValue(0)
            if step.key == "tidy":
                choose_largest(window)
            if step.key == "check" and look == "light":
                check_small(window)
            elif step.key == "sheets" and look == "light":
                sheets_nested(window)
            elif step.key == "sheets":
                sheets_parted(window)
            elif step.key == "send" and look == "light":
                sent_in_folder(window)
            elif step.key != "prepare" and look == "light":
                shot(window, f"{place + 1}-{step.key}-{look}")
        trace_by_hand(window, look)
        layers_apart(window, look)


def sent_in_folder(window: Window) -> None:
    """The card that sends several formats to a folder, with the papers."""
    step = window.by_key["send"]
    step.open_card(step.folder)
    for box in (step.folder.formats["dxf"], step.folder.formats["pdf"], step.folder.job_sheet, step.folder.strip):
        box.click()
    shot(window, "9-send-light")


def check_small(window: Window) -> None:
    """The badge as carried layers of 60 mm, whose narrow places are found, one of them in hand."""
    step = window.by_key["check"]
    window.model.change("Small", "finish", width=60.0, height=None)
    window.model.change("Way of building", "layers", build="carried")
    settle(window)
    wait(lambda: step.checks.checked is not None and not step.checks.busy)
    step.look_at(0)
    wait(lambda: not step.checks.busy)
    settle(window)
    shot(window, "7-check-light")
    window.model.undo()
    window.model.undo()
    settle(window)
    window.canvas.fit()


def sheets_nested(window: Window) -> None:
    """Four badges nested on sheets of their own size, cut half way."""
    step = window.by_key["sheets"]
    step.change("Nested", nested=True, copies=4, size=(305.0, 203.0))
    settle(window)
    wait(lambda: step.layouts.layout is not None)
    settle(window)
    for card in (step.sheets, step.laying):
        card.fold(True)
    step.way.fold(False)
    step.way.shown.click()
    step.way.slide.setValue(480)
    shot(window, "8-sheets-light")
    step.way.shown.click()
    window.model.undo()
    settle(window)


def sheets_parted(window: Window) -> None:
    """The badge as a sign of 19 inches, carried, whose seams are in hand."""
    step = window.by_key["sheets"]
    window.model.change("Sign", "finish", width=19 * 25.4, height=None)
    window.model.change("Way of building", "layers", build="carried")
    settle(window)
    wait(lambda: step.layouts.layout is not None)
    step.open_card(step.seams)
    step.draw_with("seams")
    window.canvas.working.choose(0)
    shot(window, "8-seams-dark")
    step.draw_with("lay")
    window.model.undo()
    window.model.undo()
    settle(window)


def layers_apart(window: Window, look: str) -> None:
    """Carried layers in the best order, lifted, in light."""
    if look != "light":
        return
    window.show_step("layers")
    window.by_key["layers"].change("Way of building", build="carried", best=True)
    settle(window)
    window.lift.setValue(75)
    window.ledger.selectRow(1)
    shot(window, "lift-light")
    window.lift.setValue(0)
    window.ledger.let_go()
    window.model.undo()
    settle(window)


def choose_largest(window: Window) -> None:
    """Choose two pieces, and point at a third."""
    step, canvas = window.by_key["tidy"], window.canvas
    pieces = step.pieces
    largest = sorted(pieces.cut, key=lambda piece: -pieces.measure(piece).area)
    step.choose(pieces.anchors(largest[2:4]))
    under = canvas.widget_point(pieces.anchors(largest[1:2])[0].at)
    canvas.tool.move(under)


def trace_by_hand(window: Window, look: str) -> None:
    """A node with its handles, in light."""
    window.show_step("trace")
    step = window.by_key["trace"]
    if look == "light":
        step.draw_with("nodes")
        tool = window.canvas.tool
        tool.choose(max(tool.nodes()[0], key=lambda node: len(tool._handles(node))))
        window.canvas.go_to(tuple(tool.chosen), 3.0)
        window.canvas.ring = None
        shot(window, "trace-nodes-light")
        step.draw_with(None)
        window.canvas.fit()


def beside(window: Window) -> None:
    """The badge carried beside the badge flush, with their figures."""
    window.show_step("source")
    window.model.keep_version("Flush")
    window.model.change("Way of building", "layers", build="carried")
    settle(window)
    source = window.by_key["source"]
    source.open_card(source.versions)
    window.show_beside()
    page = window.beside
    wait(lambda: page.left.half.side is not None and page.right.half.side is not None)
    shot(window, "beside-light")
    page.put_away()
    window.model.undo()
    settle(window)


def logbook(window: Window) -> None:
    """What was cut for the fair, and the stock that is left."""
    book, now = window.log.book, int(time.time())
    cards = Preset("Card, new blade", force=120.0, speed=40.0)
    labels = Preset("Vinyl", force=70.0, speed=60.0)
    for days, job, stock, preset, planned, taken, result, used, note in (
        (0, "Fair badge", "Red card", cards, 131, 150, "good", 2, ""),
        (0, "Fair badge", "Green card", cards, 96, 110, "good", 1, "Leaves weeded clean"),
        (1, "Fair badge", "Cream paper", None, 74, None, "usable", 1, "The can's spout tore once"),
        (3, "Seed labels", "Blue vinyl", labels, 260, 310, "good", 1, ""),
        (3, "Seed labels", "Yellow vinyl", labels, 205, 240, "spoiled", 1, "Not weeded: cut right through"),
        (8, "Scarecrow in colour", "Felt", None, 420, 515, "good", 2, ""),
    ):
        entry = Entry(job, stock, "Drag knife", "sheet-1", now - days * 86_400, preset, planned, taken, result, note)
        book.add([msgspec.structs.replace(entry, used=float(used), price=0.4)])
    book.set_on_hand("Red card", 3.0, 5.0)
    book.set_on_hand("Green card", 22.0, 5.0)
    book.set_on_hand("Blue vinyl", 4.5, 1.0)
    window.show_step("send")
    send = window.by_key["send"]
    send.open_card(send.log)
    window.show_logbook()
    wait(lambda: not window.log.busy)
    theme.choose("dark")
    shot(window, "logbook-dark")
    theme.choose("light")
    window.logbook.put_away()


def many(window: Window) -> None:
    """The settings in hand done with every picture of a folder, one of them half a file."""
    folder = Path(tempfile.mkdtemp()) / "summer-fair"
    folder.mkdir()
    for picture in DEMO.iterdir():
        (folder / picture.name).write_bytes(picture.read_bytes())
    (folder / "poster.jpg").write_bytes((DEMO / "snail.jpg").read_bytes()[:5000])
    window.show_many()
    page = window.many
    page.take([folder])
    page.write_to(folder.parent / "cut-files")
    page.begin.click()
    wait(lambda: not page.busy and len(page.rows.rows) == 6, 120)
    shot(window, "batch-light")
    page.put_away()


def photographs(window: Window) -> None:
    """Pictures that are no flat art: what is found in them, and what puts them right."""
    open_picture(window, "snail.jpg")
    window.show_step("source")
    theme.choose("light")
    window.show_step("separate")
    settle(window)
    shot(window, "snail-separate-light")
    window.open_demo("scarecrow")
    wait(lambda: window.job_name.text() == "Scarecrow in colour")
    settle(window)
    window.model.change("Leaks", "separate", close_gaps=False)
    settle(window)
    window.show_step("tidy")
    shot(window, "scarecrow-tidy-light")
    open_picture(window, "lantern.jpg")
    window.model.change_rows("By a box", (ClearBox(first=(0.2, 0.08), last=(0.62, 0.95)),))
    settle(window)
    window.show_step("prepare")
    window.by_key["prepare"].draw_with("drop", 0)
    theme.choose("light")
    settle(window)
    shot(window, "lantern-prepare-light")


app = make_application()


def main() -> None:
    """Draw all pictures."""
    OUT.mkdir(parents=True, exist_ok=True)
    window = Window()
    window.resize(1280, 800)
    window.show()
    badge(window)
    theme.choose("light")
    beside(window)
    logbook(window)
    many(window)
    photographs(window)
    window.finder.start()
    theme.choose("light")
    shot(window, "finder-light")
    window.model.close()


if __name__ == "__main__":
    main()
