"""The Tidy step, driven: pieces chosen, given, parted and drawn; specks back; islands held."""

import re
import threading

import numpy as np
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QAbstractButton
from svgpathtools import parse_path

from sketchloom.app.demo import DEMOS
from sketchloom.core.send import SVG
from tests.conftest import draw

RED, GREEN, BLUE = "#b3275f", "#4f8a4b", "#2a6fdb"
ART = (
    f'<rect x="20" y="20" width="160" height="70" fill="{RED}"/>'
    f'<rect x="40" y="35" width="30" height="30" fill="{GREEN}"/>'
    f'<rect x="20" y="110" width="70" height="70" fill="{GREEN}"/><circle cx="140" cy="145" r="30" fill="{BLUE}"/>'
)
STROKE = 'stroke="#111" stroke-width="6" fill="none"'
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def show(window, settled, tmp_path):
    """Open a picture of 200 units on a page 200 mm wide, at the Tidy step."""

    def opened(body: str, size: int = 400, mode: str = "auto", **separate):
        path = tmp_path / "fair.png"
        Image.fromarray(draw(body, size, 200).rgba).save(path)
        window.open(path)
        settled(window)
        window.model.change("Page", "finish", page="picture", width=200.0)
        if mode != "auto" or separate:
            window.model.change("Kind", "separate", mode=mode, **separate)
        settled(window)
        window.show_step("tidy")
        return window.by_key["tidy"]

    return opened


@pytest.fixture
def step(show):
    return show(ART)


@pytest.fixture
def point(window):
    """Where a unit of the drawing lies on the canvas."""
    return lambda x, y: window.canvas.widget_point((x / 200, y / 200)).toPoint()


@pytest.fixture
def click(window, qtbot, point):
    return lambda x, y, keys=Qt.KeyboardModifier.NoModifier: qtbot.mouseClick(
        window.canvas, Qt.MouseButton.LeftButton, keys, point(x, y)
    )


@pytest.fixture
def drag(window, qtbot, point):
    def dragged(first, last):
        start, end = point(*first), point(*last)
        qtbot.mousePress(window.canvas, Qt.MouseButton.LeftButton, pos=start)
        for share in (0.3, 0.7, 1.0):
            qtbot.mouseMove(window.canvas, start + QPoint(*(int(v * share) for v in (end - start).toTuple())))
        qtbot.mouseRelease(window.canvas, Qt.MouseButton.LeftButton, pos=end)

    return dragged


def layers(window) -> dict:
    return {layer.ink.key: layer for layer in window.model.result.stack.layers}


def test_a_piece_under_the_pointer_is_told_and_outlined(window, qtbot, step, point):
    assert window.canvas.tool is not None and step.chosen.choose.isChecked()
    qtbot.mouseMove(window.canvas, point(150, 60))
    assert re.match(r".+, 160\.0 × 70\.0 mm, 1\d\d\.\d\d cm²", window.canvas.tool.words)
    assert not window.canvas.outlines.under.isEmpty()
    qtbot.mouseMove(window.canvas, point(-5, -5))
    assert window.canvas.tool.words == "" and window.canvas.outlines.under.isEmpty()


def test_clicks_and_boxes_choose_and_shift_adds(window, step, click, drag):
    click(55, 50)
    assert len(step.choice) == 1 and not window.canvas.outlines.chosen.isEmpty()
    click(140, 145, SHIFT)
    assert len(step.choice) == 2 and step.chosen.aside.text() == "2 of 4"
    click(140, 145, SHIFT)
    assert len(step.choice) == 1
    drag((10, 100), (190, 190))
    assert len(step.choice) == 2
    click(10, 10)  # ground counts as a piece: it can be brought back
    assert len(step.choice) == 1


@pytest.mark.parametrize(
    ("at", "way", "count"),
    [
        ((55, 50), "ink", 2),
        ((140, 145), "smaller", 2),
        ((55, 50), "others", 3),
        ((150, 60), "inside", 1),
        ((55, 50), "touching", 1),
    ],
)
def test_more_is_chosen_by_what_belongs_to_it(step, click, at, way, count):
    click(*at)
    step.chosen.widen(way)
    assert len(step.choice) == count


def test_all_like_one_are_chosen_turned_and_mirrored_too(show, click):
    ell = '<path d="M0 0h30v10h-20v20h-10z" fill="#b3275f" transform="{}"/>'
    places = ("translate(10 10)", "translate(100 60) rotate(130)", "translate(180 20) scale(-1 1)")
    square = '<rect x="120" y="130" width="22" height="22" fill="#b3275f"/>'
    step = show("".join(ell.format(place) for place in places) + square)
    click(14, 14)
    step.chosen.widen("alike")
    assert len(step.choice) == 3


def test_what_is_chosen_is_given_away_and_undo_gives_it_back(window, settled, step, click):
    whole = SVG.write(window.model.result.stack)
    click(55, 50)
    step.chosen.give_to(RED)
    settled(window)
    assert layers(window)[RED].area == pytest.approx(160 * 70, rel=2e-3)
    click(140, 145)
    step.chosen.ground.click()
    settled(window)
    assert BLUE not in layers(window) and window.model.undo_name == "Give to the ground"
    window.model.undo()
    window.model.undo()
    settled(window)
    assert SVG.write(window.model.result.stack) == whole


def test_delete_sends_the_choice_to_the_ground(window, qtbot, settled, step, click):
    click(140, 145)
    qtbot.keyClick(window.canvas, Qt.Key.Key_Delete)
    settled(window)
    assert BLUE not in layers(window)


def test_the_panes_of_a_greenhouse_are_recoloured_in_thirteen_gestures(window, settled, show, click):
    """Twelve panes drawn as line art: a click on each with Shift, and one gift."""
    bars = "".join(f'<path d="M{x} 30V150" {STROKE}/>' for x in (20, 60, 100, 140, 180))
    rails = "".join(f'<path d="M17 {y}H183" {STROKE}/>' for y in (30, 70, 110, 150))
    step = show(bars + rails, mode="lineart", inks=1)
    gestures = 0
    for row in range(3):
        for column in range(4):
            click(40 + 40 * column, 50 + 40 * row, SHIFT)
            gestures += 1
    assert step.chosen.aside.text().startswith("12 of")
    step.chosen.give_to("#88c9ee")
    settled(window)
    assert gestures + 1 <= 13 and layers(window)["#88c9ee"].pieces == 12
    assert {ink.key for ink in window.model.result.palette.cut} >= {"#88c9ee"}


def test_a_line_parts_a_piece_and_one_half_is_given_away(window, settled, step, click, drag):
    """A snail's horn from its body, with one line."""
    step.drawing_card.tools["split"].click()
    drag((100, 10), (100, 100))
    settled(window)
    assert window.model.undo_name == "Part by a line"
    step.draw_with("choose")
    click(150, 60)
    step.chosen.give_to(BLUE)
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 900 + 80 * 70, rel=5e-3)


@pytest.mark.parametrize(("tool", "area"), [("rectangle", 1200), ("ellipse", np.pi / 4 * 1200)])
def test_shapes_are_drawn_with_the_ink_in_hand(window, settled, step, drag, tool, area):
    before = layers(window)[BLUE].area
    step.drawing_card.ink.setCurrentIndex(step.drawing_card.ink.findData(BLUE))
    step.drawing_card.tools[tool].click()
    drag((100, 30), (140, 60))
    settled(window)
    assert layers(window)[BLUE].area - before == pytest.approx(area, rel=0.05)  # the pointer moves by whole pixels


def test_a_leak_is_closed_by_one_click_and_two_pieces_are_there(window, qtbot, settled, show):
    step = show(f'<path d="M120 60A55 55 0 1 0 140 80" {STROKE}/>', mode="lineart")
    before = len(step.pieces.cut)
    close = next(b for b in step.leaks.findChildren(QAbstractButton) if b.accessibleName() == "Close leak 1")
    qtbot.mouseClick(close, Qt.MouseButton.LeftButton)
    settled(window)
    assert len(step.pieces.cut) == before + 1


def test_what_a_slider_took_is_outlined_listed_and_comes_back(window, qtbot, settled, show):
    dots = "".join(
        f'<rect x="{10 + 18 * i}" y="{10 + 18 * j}" width="{3 if (i + j) % 5 else 5}" height="3" fill="{RED}"/>'
        for i in range(10)
        for j in range(10)
    )
    step = show(dots)
    assert layers(window)[RED].pieces == 100
    step.small.least.setFocus()
    step.small.least.selectAll()
    qtbot.keyClicks(step.small.least, "12 mm2")
    qtbot.keyClick(step.small.least, Qt.Key.Key_Return)
    settled(window)
    assert layers(window)[RED].pieces == 20 and "80 specks went" in step.small.gone.text()
    assert not window.canvas.outlines.taken.isEmpty()
    back = next(b for b in step.small.findChildren(QAbstractButton) if b.accessibleName() == "Bring the speck back")
    back.click()  # it may lie below what the panel shows
    settled(window)
    assert layers(window)[RED].pieces == 21 and not window.model.result.tidied.unplaced


def area_of(d: str) -> shapely.Geometry:
    """The area of a written path, read by svgpathtools and laid even-odd by shapely; mm."""
    out = shapely.Polygon()
    for part in parse_path(d).continuous_subpaths():
        points = [part.point(t) for t in np.linspace(0, 1, 40 * len(part), endpoint=False)]
        ring = shapely.make_valid(shapely.Polygon([(p.real, p.imag) for p in points]))
        out = shapely.symmetric_difference(out, ring)
    return out


def test_the_islands_of_a_stencilled_word_are_held_by_one_click(window, qtbot, settled, show):
    """O, A and B with their counters: the sheet that the word is cut from is one piece then, on the written SVG."""
    word = (
        '<path d="M20 60h50v80h-50zM34 74v52h22v-52z" fill="#332a2e" fill-rule="evenodd"/>'
        '<path d="M78 140l18-80h16l18 80h-14l-4-18h-16l-4 18zM98 110h12l-6-28z" fill="#332a2e" fill-rule="evenodd"/>'
        '<path d="M140 60h44v80h-44zM154 72v20h16v-20zM154 106v22h16v-22z" fill="#332a2e" fill-rule="evenodd"/>'
    )
    step = show(word, size=800, mode="flat", grounded=("#ffffff",))
    assert len(window.model.result.tidied.islands) == 4 and "4 islands" in step.islands.words.text()
    sheet = shapely.box(-10, -10, 210, 210)

    def parts() -> list:
        cut = area_of(re.search(r' d="([^"]+)"', SVG.write(window.model.result.stack).decode())[1])
        return sorted((p.area for p in shapely.get_parts(sheet.difference(cut))), reverse=True)

    before = parts()
    assert len(before) == 5
    qtbot.mouseClick(step.islands.all, Qt.MouseButton.LeftButton)
    settled(window)
    assert not window.model.result.tidied.islands and "nothing would fall out" in step.islands.words.text()
    after = parts()
    assert len(after) == 1 and after[0] > sum(before)
    assert window.model.undo_name == "Hold all islands"


def test_work_is_listed_switched_off_moved_and_taken_back(window, settled, step, click):
    for at, key in (((55, 50), RED), ((140, 145), GREEN)):
        click(*at)
        step.chosen.give_to(key)
        settled(window)
    assert step.work.rows.count() == 2
    step.work.switch(0, False)
    settled(window)
    assert layers(window)[GREEN].area > 4900 + 800 and BLUE not in layers(window)
    step.work.move(0, 1)
    settled(window)
    assert not window.model.recipe.tidy.work[1].on
    step.work.remove(0)
    settled(window)
    assert BLUE in layers(window) and len(window.model.recipe.tidy.work) == 1


def test_the_choice_outlives_other_settings_and_goes_with_the_job(window, qtbot, settled, step, click):
    click(55, 50)
    window.model.change("Smoothness", "trace", smoothness=0.1)
    settled(window)
    assert step.chosen.aside.text() == "1 of 4"
    window.show_step("trace")
    assert window.canvas.outlines.chosen.isEmpty() and not step.drawing
    window.open_demo()
    qtbot.waitUntil(lambda: step.choice == ())
    settled(window)


def test_the_choice_grows_shrinks_turns_and_is_copied_by_dragging(window, settled, step, click, drag):
    click(140, 145)
    step.chosen.by.show_mm(2.0)
    step.chosen.shaping["Grow"].click()
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 32**2, rel=3e-3)
    step.chosen.shaping["Shrink"].click()
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 30**2, rel=3e-3)
    step.chosen.size.setValue(50)
    step.chosen.shaping["Turn and size"].click()
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 15**2, rel=5e-3)
    click(140, 145)
    step.chosen.shaping["Copy"].click()
    drag((140, 145), (105, 100))
    settled(window)
    assert layers(window)[BLUE].pieces == 2 and step.drawing == "choose"
    assert window.model.undo_name == "Copy" and not window.model.result.tidied.unplaced


def test_given_pieces_show_before_their_edges_are_traced(window, qtbot, settled, step, click, monkeypatch):
    from sketchloom.core.job import work

    real, go_on = work.trace_arcs, threading.Event()
    monkeypatch.setattr(work, "trace_arcs", lambda *given: go_on.wait(10) and real(*given))
    click(140, 145)
    before = window.canvas.scene._regions.toImage()
    with qtbot.waitSignal(window.model.regions_ready):
        step.chosen.give_to("#f5a918")
    qtbot.waitUntil(lambda: window.canvas.scene._regions.toImage() != before)
    assert window.model.stale
    go_on.set()
    settled(window)
    assert layers(window)["#f5a918"].pieces == 1


@pytest.mark.parametrize("key", ["snail", "scarecrow", "lantern"])
def test_the_demo_jobs_come_with_their_work_in_place(window, qtbot, settled, key):
    window.by_key["source"].start.demos[key].click()
    qtbot.waitUntil(lambda: window.model.job is not None and window.model.job.name == DEMOS[key].name)
    settled(window)
    tidied = window.model.result.tidied
    assert window.model.recipe.tidy.work and not tidied.unplaced and not window.model.dirty
    assert key != "snail" or (tidied.bridges == 4 and not tidied.islands)
    window.show_step("tidy")
    assert window.by_key["tidy"].work.rows.count() == len(window.model.recipe.tidy.work)


def test_bridges_that_come_by_themselves_are_shown_set_and_switched_off(window, qtbot, settled):
    window.open_demo("snail")
    qtbot.waitUntil(lambda: window.model.job is not None)
    settled(window)
    window.show_step("tidy")
    card = window.by_key["tidy"].islands
    assert card.always.isChecked() and card.width.mm == 3.0 and card.count.value() == 2
    card.count.setValue(1)
    settled(window)
    assert window.model.result.tidied.bridges == 2 and not window.model.result.tidied.islands
    card.always.click()
    settled(window)
    assert window.model.recipe.tidy.bridges is None and len(window.model.result.tidied.islands) == 2
    card.always.click()
    settled(window)
    assert window.model.recipe.tidy.bridges.count == 1 and not window.model.result.tidied.islands
