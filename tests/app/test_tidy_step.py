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
from sketchloom.core.job.stages import trace
from sketchloom.core.send import SVG, page_of_layers
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
def trail(window, qtbot, point):
    """Drag through places of the drawing."""

    def along(*places):
        start, *rest = (point(*place) for place in places)
        qtbot.mousePress(window.canvas, Qt.MouseButton.LeftButton, pos=start)
        for place in rest:
            qtbot.mouseMove(window.canvas, place)
        qtbot.mouseRelease(window.canvas, Qt.MouseButton.LeftButton, pos=rest[-1])

    return along


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
    whole = SVG.write(page_of_layers(window.model.result.stack.cuts))
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
    assert SVG.write(page_of_layers(window.model.result.stack.cuts)) == whole


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
    step.drawing_card.choose_effect("part")
    step.drawing_card.tools["line"].click()
    drag((100, 10), (100, 100))
    settled(window)
    assert window.model.undo_name == "Part: line"
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
        cut = area_of(re.search(r' d="([^"]+)"', SVG.write(page_of_layers(window.model.result.stack.cuts)).decode())[1])
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
    step.shape.by.show_mm(2.0)
    step.shape.shaping["Grow"].click()
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 32**2, rel=3e-3)
    step.shape.shaping["Shrink"].click()
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 30**2, rel=3e-3)
    step.shape.size.setValue(50)
    step.shape.shaping["Turn and size"].click()
    settled(window)
    assert layers(window)[BLUE].area == pytest.approx(np.pi * 15**2, rel=5e-3)
    click(140, 145)
    step.shape.shaping["Copy"].click()
    drag((140, 145), (105, 100))
    settled(window)
    assert layers(window)[BLUE].pieces == 2 and step.drawing == "choose"
    assert window.model.undo_name == "Copy" and not window.model.result.tidied.unplaced


def test_given_pieces_show_before_their_edges_are_traced(window, qtbot, settled, step, click, monkeypatch):
    real, go_on = trace.trace_arcs, threading.Event()
    monkeypatch.setattr(trace, "trace_arcs", lambda *given: go_on.wait(10) and real(*given))
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
    assert key != "snail" or (tidied.bridges == 3 and not tidied.islands)  # one of them between two islands
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


def ring(x, y, radius, count=48):
    turns = np.linspace(0, 2 * np.pi, count + 1)
    return [(x + radius * np.cos(turn), y + radius * np.sin(turn)) for turn in turns]


def pick(combo, data):
    """Choose an entry as a hand would."""
    combo.setCurrentIndex(combo.findData(data))
    combo.activated.emit(combo.currentIndex())


def test_pieces_are_chosen_by_a_line_round_them(step, trail):
    step.chosen.by_hand.click()
    trail(*ring(140, 145, 40))
    assert len(step.choice) == 1
    trail((5, 100), (195, 100), (195, 195), (5, 195), (5, 102))
    assert len(step.choice) == 2
    assert step.chosen.by_hand.isChecked() and not step.chosen.choose.isChecked()


@pytest.mark.parametrize(
    ("effect", "form", "places", "ink", "area"),
    [
        ("draw", "by-hand", ring(100, 55, 20), BLUE, np.pi * 400),
        ("draw", "line-by-hand", [(75, 55), (90, 56), (110, 54), (130, 55)], BLUE, 55 * 6 + np.pi * 9),
        ("cut", "by-hand", ring(100, 55, 20), RED, -np.pi * 400),
        ("clear", "by-hand", ring(100, 55, 20), RED, -np.pi * 400),
        ("colour", "line-by-hand", [(130, 10), (131, 50), (129, 70), (130, 100)], BLUE, 50 * 70),
        ("part", "by-hand", ring(130, 55, 20), RED, -2 * np.pi * 20 * 4),
    ],
)
def test_what_is_drawn_by_hand_does_what_is_chosen(
    window, qtbot, settled, step, trail, effect, form, places, ink, area
):
    card = step.drawing_card
    card.choose_effect(effect)
    pick(card.ink, BLUE)
    card.width.show_mm(6.0)
    card.gap.show_mm(4.0 if effect == "part" else 0.0)
    before = layers(window)[ink].area
    card.tools[form].click()
    trail(*places)
    settled(window)
    assert layers(window)[ink].area - before == pytest.approx(area, rel=0.06)
    assert window.model.result.tidied.unplaced == ()


def test_the_picture_shows_dimmed_while_something_is_drawn_after_it(window, settled, step, click, point):
    click(55, 50)
    step.chosen.give_to(BLUE)
    settled(window)
    plain = window.canvas.grab().toImage().pixelColor(point(55, 50))
    step.drawing_card.tools["by-hand"].click()
    over = window.canvas.grab().toImage().pixelColor(point(55, 50))
    assert plain.blue() > plain.green() and over.green() - plain.green() > 3 and plain.blue() - over.blue() > 20


def test_only_forms_that_the_effect_can_use_are_offered(step):
    card = step.drawing_card
    card.choose_effect("keep")
    assert not card.tools["line"].isEnabled() and card.tools["curved"].isEnabled()
    card.choose_effect("colour")
    assert card.tools["line-by-hand"].isEnabled() and not card.tools["rectangle"].isEnabled()
    card.tools["line"].click()
    card.choose_effect("clear")
    assert step.drawing == "choose"


@pytest.mark.parametrize(("form", "area"), [("star", None), ("regular", 2.5 * np.sin(2 * np.pi / 5) * 400)])
def test_even_shapes_fill_their_box(window, settled, step, drag, form, area):
    """A regular polygon of n sides in a circle of radius r covers n/2 sin(2 pi/n) r^2."""
    before = layers(window)[BLUE].area
    pick(step.drawing_card.ink, BLUE)
    step.drawing_card.tools[form].click()
    drag((110, 35), (150, 75))
    settled(window)
    drawn = layers(window)[BLUE].area - before
    assert drawn == pytest.approx(area, rel=0.06) if area else 200 < drawn < 600


def test_a_curved_outline_runs_through_its_clicks(window, qtbot, settled, step, click):
    before = layers(window)[BLUE].area
    pick(step.drawing_card.ink, BLUE)
    step.drawing_card.tools["curved"].click()
    for x, y in ring(110, 55, 25, 8)[:8]:
        click(x, y)
    qtbot.keyClick(window.canvas, Qt.Key.Key_Return, SHIFT)
    settled(window)
    assert layers(window)[BLUE].area - before == pytest.approx(np.pi * 625, rel=0.03)


def test_a_new_ink_can_be_drawn_with(window, settled, step, drag, monkeypatch):
    monkeypatch.setattr("sketchloom.app.steps.tidy.drawing.ask_for_ink", lambda *_: "#88c9ee")
    pick(step.drawing_card.ink, "new")
    step.drawing_card.tools["rectangle"].click()
    drag((100, 30), (140, 60))
    settled(window)
    assert layers(window)["#88c9ee"].pieces == 1 and step.drawing_card.key == "#88c9ee"
    window.open_demo()
    settled(window)
    assert step.drawing_card.key in [ink.key for ink in step.inks_now()]


def test_the_choice_is_turned_and_sized_by_its_handles(window, qtbot, settled, step, click, drag, point):
    click(55, 145)  # the green square
    step.shape.shaping["By handles"].click()
    box = window.canvas.tool._box()
    middle = (box[0] + box[2]) / 2
    assert (middle - point(55, 145).toPointF()).manhattanLength() < 3
    before = layers(window)[GREEN].area
    drag((90, 180), (72.5, 162.5))  # its corner, half way to the middle
    settled(window)
    small = layers(window)[GREEN].area
    assert before - small == pytest.approx(70 * 70 * 0.75, rel=0.05)
    assert step.drawing == "handles" and len(step.choice) == 1
    tool = window.canvas.tool
    knob, middle = tool._knob(tool._box()), (tool._box()[0] + tool._box()[2]) / 2
    aim = middle + (knob - middle).transposed() * -1  # a quarter turn
    qtbot.mousePress(window.canvas, Qt.MouseButton.LeftButton, pos=knob.toPoint())
    qtbot.mouseMove(window.canvas, aim.toPoint())
    qtbot.mouseRelease(window.canvas, Qt.MouseButton.LeftButton, pos=aim.toPoint())
    settled(window)
    assert abs(abs(window.model.recipe.tidy.work[-1].turn) - 90) < 3
    assert layers(window)[GREEN].area == pytest.approx(small, rel=0.02)
    places = len(window.model.recipe.tidy.work)
    qtbot.keyClick(window.canvas, Qt.Key.Key_Right)
    settled(window)
    assert len(window.model.recipe.tidy.work) == places + 1 and window.model.result.tidied.unplaced == ()


def test_a_bridge_is_dragged_along_its_island(window, settled, show, drag):
    step = show(f'<path d="M100 30a70 70 0 1 0 .1 0z M100 60a40 40 0 1 1 -.1 0z" fill="{RED}"/>')
    assert len(window.model.result.tidied.islands) == 1
    step.islands.tool.click()
    drag((100, 110), (100, 20))
    settled(window)
    assert not window.model.result.tidied.islands
    (bridge,) = window.model.recipe.tidy.work
    middle = [100 * (a + b) for a, b in zip(bridge.first, bridge.last, strict=True)]
    drag(middle, (middle[0] + 15, middle[1]))
    settled(window)
    (moved,) = window.model.recipe.tidy.work
    assert moved.first[0] - bridge.first[0] == pytest.approx(15 / 200, abs=0.01)
    assert not window.model.result.tidied.islands and window.model.undo_name == "Drag a bridge"


def test_with_an_axis_the_other_half_follows(window, settled, show, click, drag):
    step = show(
        f'<circle cx="40" cy="60" r="25" fill="{RED}"/><circle cx="160" cy="60" r="25" fill="{RED}"/>'
        f'<rect x="30" y="110" width="140" height="60" fill="{GREEN}"/>'
    )
    pick(step.halves.way, "upright")
    assert not window.canvas.outlines.axis.isEmpty()
    click(40, 60)
    step.chosen.give_to(GREEN)
    settled(window)
    assert layers(window)[GREEN].pieces == 3 and RED not in {k for k, v in layers(window).items() if v.pieces}
    step.drawing_card.choose_effect("cut")
    before = layers(window)[GREEN].area
    step.drawing_card.tools["rectangle"].click()
    drag((40, 120), (60, 140))
    settled(window)
    assert before - layers(window)[GREEN].area == pytest.approx(2 * 400, rel=0.1)
    window.commands.run("undo")
    window.commands.run("undo")
    settled(window)
    assert layers(window)[RED].pieces == 2
    pick(step.halves.way, "line")
    drag((100, 5), (100, 195))
    assert step.halves.axis[0][0] == pytest.approx(0.5, abs=0.01)


def test_limits_can_be_those_of_one_ink(window, qtbot, settled, show):
    dots = "".join(
        f'<rect x="{15 + 18 * i}" y="{y}" width="4" height="4" fill="{ink}"/>'
        for i in range(9)
        for y, ink in ((30, RED), (60, GREEN))
    )
    step = show(
        dots + f'<rect x="20" y="100" width="80" height="80" fill="{RED}"/>'
        f'<rect x="110" y="100" width="60" height="80" fill="{GREEN}"/>'
    )
    pick(step.small.of, GREEN)
    step.small.least.setFocus()
    step.small.least.selectAll()
    qtbot.keyClicks(step.small.least, "30 mm2")
    qtbot.keyClick(step.small.least, Qt.Key.Key_Return)
    settled(window)
    assert layers(window)[GREEN].pieces == 1 and layers(window)[RED].pieces == 10
    pick(step.small.of, "")
    assert step.small.least.text() == "0.25 mm²"
    pick(step.small.of, GREEN)
    assert step.small.least.text() == "30 mm²" and not step.small.as_all.isHidden()
    step.small.as_all.click()
    settled(window)
    assert layers(window)[GREEN].pieces == 10 and window.model.recipe.tidy.limits == ()


def test_the_ledger_shows_what_is_chosen_and_chooses(window, step, click):
    click(55, 50)
    click(140, 145, SHIFT)
    assert window.ledger._rows.chosen == {GREEN: 1, BLUE: 1}
    window.ledger.select(GREEN)
    assert len(step.choice) == 2 and window.ledger._rows.chosen == {GREEN: 2}
    window.show_step("trace")
    assert window.ledger._rows.chosen == {}


def test_a_row_of_work_shows_where_it_is(window, qtbot, settled, step, click):
    click(55, 50)
    step.chosen.give_to(BLUE)
    settled(window)
    row = step.work.rows.itemAt(0).widget()
    row.looked_at.emit(True)
    path = window.canvas.outlines.work
    assert path.boundingRect().center().toTuple() == pytest.approx((55 / 200, 50 / 200), abs=0.05)
    row.looked_at.emit(False)
    assert window.canvas.outlines.work.isEmpty()


def test_the_narrowest_place_is_told(window, qtbot, show, click, point):
    step = show(f'<path d="M20 20h60v30h40v-30h60v120h-60v-84h-40v84h-60z" fill="{RED}"/>')
    click(40, 80)
    qtbot.waitUntil(lambda: bool(re.search(r"narrowest (5|6)\.\d+ mm", step.chosen.words.text())))
    qtbot.mouseMove(window.canvas, point(150, 60))
    qtbot.waitUntil(lambda: "narrowest" in window.canvas.tool.words)


def test_pieces_that_are_kept_together_are_chosen_together(window, settled, step, click):
    click(55, 50)
    click(140, 145, SHIFT)
    step.shape.shaping["Keep together"].click()
    settled(window)
    click(55, 145)
    assert len(step.choice) == 1
    click(140, 145)
    assert len(step.choice) == 2
    step.shape.put("Move", by=(0.02, 0.0))
    settled(window)
    assert len(step.pieces.found(step.choice)) == 2
