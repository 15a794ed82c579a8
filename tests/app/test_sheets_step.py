"""Sheets in the real window: laid, moved by hand, searched on, saved and opened again."""

import threading

import numpy as np
import pytest
import shapely
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QFileDialog

from sketchloom.app.fields import Elided
from sketchloom.app.steps.sheets.scene import SheetScene
from sketchloom.core.job import Pipeline, read_job, sheet_names
from sketchloom.core.layers import LayerRule
from sketchloom.core.picture import load_picture
from sketchloom.core.send import SVG, names_of, page_of_sheet, written
from sketchloom.core.stock import CUTTERS, MACHINES, PRESETS, Stock
from tests.conftest import draw


@pytest.fixture
def laid(qtbot, settled):
    """Wait until the newest result is laid on sheets; gives the layout."""

    def wait(window):
        settled(window)
        qtbot.waitUntil(lambda: window.by_key["sheets"].layouts.layout is not None)
        return window.by_key["sheets"].layouts.layout

    return wait


@pytest.fixture
def at_sheets(window, laid):
    """The badge at Sheets."""
    window.open_demo()
    laid(window)
    window.show_step("sheets")
    return window


def middle_of(window, laid) -> QPoint:
    """A place of the canvas where something lies."""
    _, corner = window.by_key["sheets"].scene.corner_of(laid)
    inside = laid.shapes[0].representative_point()
    return ((corner + QPointF(inside.x, inside.y)) * window.canvas.zoom + window.canvas.offset).toPoint()


def drag(window, qtbot, begin: QPoint, end: QPoint) -> None:
    qtbot.mousePress(window.canvas, Qt.MouseButton.LeftButton, pos=begin)
    for share in (0.3, 0.7, 1.0):
        qtbot.mouseMove(window.canvas, begin + (end - begin) * share)
    qtbot.mouseRelease(window.canvas, Qt.MouseButton.LeftButton, pos=end)


def typed(qtbot, field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def files_of_sheets(result) -> dict[str, bytes]:
    ids = names_of(result.stack.cuts.cuts)
    return {
        name: written(SVG, page_of_sheet(sheet, ids))
        for name, sheet in zip(sheet_names(result.layout), result.layout.sheets, strict=True)
    }


def opened_again(window, qtbot, path) -> dict[str, bytes]:
    """Save the job, and give the sheets of the saved one, worked out anew."""
    window.model.save(path)
    qtbot.waitUntil(lambda: window.model.path is not None)
    job = read_job(path)
    picture = load_picture(job.picture, job.picture_name)
    return files_of_sheets(Pipeline(0).run(picture, job.recipe, names=("palette", "sheets")))


def undone(window, laid) -> dict[str, bytes]:
    """Take everything back, and give the sheets then."""
    while window.model.undo_name:
        window.model.undo()
    laid(window)
    return files_of_sheets(window.by_key["sheets"].layouts.full)


def test_the_badge_nested_moved_turned_copied_saved_and_opened_again(at_sheets, laid, qtbot, tmp_path, settled):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    first = files_of_sheets(step.layouts.full)
    qtbot.mouseClick(step.laying.ways[True], Qt.MouseButton.LeftButton)
    laid(window)
    step.machine.fold(False)
    step.machine.cutter.setCurrentIndex(1)
    step.machine.cutter.activated.emit(1)
    assert window.model.recipe.sheets.cutter == CUTTERS[0]
    layout = laid(window)
    small = min((one for sheet in layout.sheets for one in sheet.laid), key=lambda one: one.item.body.area)
    sheet = step.scene.corner_of(small)[0]
    others = {id(one.item.body): one.at for one in sheet.laid if one is not small}
    begin = middle_of(window, small)
    reach = QPoint(0, round(80 * window.canvas.zoom))
    drag(window, qtbot, begin, begin + reach)
    layout = laid(window)
    assert window.model.undo_name == "Piece moved" and step.scene.chosen is not None
    moved = step.scene.chosen
    assert moved.bounds[1] == pytest.approx(small.bounds[1] + 80, abs=8 / window.canvas.zoom) and not moved.clashes
    now = {id(one.item.body): one.at for sheet in layout.sheets for one in sheet.laid}
    assert all(np.allclose(at, others[key], atol=1e-3) for key, at in now.items() if key in others)  # stays round it
    window.canvas.setFocus()
    qtbot.keyClick(window.canvas, Qt.Key.Key_R)
    laid(window)
    assert step.scene.chosen.turn == (small.turn + 90) % 360
    step.laying.copies.setValue(4)
    layout = laid(window)
    assert not layout.unplaced and sum(one.item.copy == 4 for sheet in layout.sheets for one in sheet.laid) == 14
    made = files_of_sheets(step.layouts.full)
    assert opened_again(window, qtbot, tmp_path / "fair.loom") == made
    assert undone(window, laid) == first
    while window.model.redo_name:
        window.model.redo()
    laid(window)
    assert files_of_sheets(step.layouts.full) == made


def test_what_is_dragged_snaps_to_the_distance_and_is_not_too_near(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    step.change("Nested", nested=True)
    layout = laid(window)
    sheet = max(layout.sheets, key=lambda one: len(one.laid))
    one = min(sheet.laid, key=lambda one: one.item.body.area)
    begin = middle_of(window, one)
    x, y, width, height = sheet.group.usable
    zoom = window.canvas.zoom
    to = QPointF(x + width - one.bounds[2], y + height - one.bounds[3]) * zoom + QPointF(-4, 3)
    drag(window, qtbot, begin, begin + to.toPoint())
    laid(window)
    found = step.scene.chosen
    assert found.bounds[2:] == pytest.approx((x + width, y + height), abs=0.01) and not found.clashes
    beside = step.piece.x
    beside.setFocus()
    beside.selectAll()
    qtbot.keyClicks(beside, "150")
    qtbot.keyClick(beside, Qt.Key.Key_Return)
    laid(window)
    assert step.scene.chosen.bounds[0] == pytest.approx(150, abs=0.01)


def test_a_piece_laid_over_another_is_told_and_not_saved(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    step.change("Nested", nested=True)
    layout = laid(window)
    sheet = max(layout.sheets, key=lambda one: len(one.laid))
    large, small = max(sheet.laid, key=lambda o: o.item.body.area), min(sheet.laid, key=lambda o: o.item.body.area)
    assert step.sheets.save.isEnabled()
    drag(window, qtbot, middle_of(window, small), middle_of(window, large))
    laid(window)
    assert "too near" in step.sheets.told.text() and not step.sheets.save.isEnabled()
    assert window.warp.steps[window.steps.index(step)].shown.state == "look"
    qtbot.mouseClick(step.laying.anew, Qt.MouseButton.LeftButton)
    laid(window)
    assert step.sheets.told.isHidden() and step.sheets.save.isEnabled()


def test_a_piece_stays_on_sheets_of_its_stock(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    layout = step.layouts.layout
    one, other = layout.sheets[2].laid[0], layout.sheets[3]
    corner = step.scene.corners[3] + QPointF(*other.size) / 2
    drag(window, qtbot, middle_of(window, one), (corner * window.canvas.zoom + window.canvas.offset).toPoint())
    assert not window.model.recipe.sheets.placements and step.scene.lifted is None
    assert "sheets of its stock" in window.notice.text()


def test_arrows_move_the_piece_in_hand_and_esc_lets_it_rest(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    one = step.layouts.layout.sheets[4].laid[0]
    qtbot.mouseClick(window.canvas, Qt.MouseButton.LeftButton, pos=middle_of(window, one))
    qtbot.keyClick(window.canvas, Qt.Key.Key_Right)
    laid(window)
    assert step.scene.chosen.bounds[0] == pytest.approx(one.bounds[0] + 1, abs=0.01)
    qtbot.keyClick(window.canvas, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    laid(window)
    assert step.scene.chosen.bounds[1] == pytest.approx(one.bounds[1] + 0.1, abs=0.01)


def test_a_search_tells_what_it_found_and_can_be_stopped(at_sheets, laid, qtbot, monkeypatch):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    monkeypatch.setattr("sketchloom.app.steps.sheets.step._SECONDS", 1.0)
    step.change("Nested", nested=True, copies=2)
    laid(window)
    qtbot.mouseClick(step.laying.search, Qt.MouseButton.LeftButton)
    assert step.laying.search.text() == "Looking…" and not step.laying.search.isEnabled()
    qtbot.waitUntil(lambda: "ighter" in window.notice.text())
    laid(window)
    qtbot.waitUntil(lambda: step.laying.search.isEnabled())
    monkeypatch.setattr("sketchloom.app.steps.sheets.step._SECONDS", 600.0)
    step.change("Laid anew", placements=())
    laid(window)
    qtbot.mouseClick(step.laying.search, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "looking for a tighter" in window.over.quiet_words.text().lower())
    window.quiet.stop()
    qtbot.waitUntil(lambda: not step.layouts.searching)
    qtbot.waitUntil(lambda: step.laying.search.isEnabled())


def test_the_sheets_are_saved_as_files_in_a_folder(at_sheets, qtbot, tmp_path, monkeypatch):
    step = at_sheets.by_key["sheets"]
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path))
    qtbot.mouseClick(step.sheets.save, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(list(tmp_path.glob("sheet-*.svg"))) == 5)
    assert {path.stem: path.read_bytes() for path in tmp_path.glob("*.svg")} == files_of_sheets(step.layouts.full)


def test_the_design_is_fitted_to_the_sheet(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    step.machine.fold(False)
    qtbot.mouseClick(step.machine.fit, Qt.MouseButton.LeftButton)
    layout = laid(window)
    widest = max(one.bounds[2] - one.bounds[0] for sheet in layout.sheets for one in sheet.laid)
    room = layout.groups[0].usable[2]
    assert room - 0.5 < widest <= room and not layout.too_large


def test_what_does_not_fit_is_said_with_its_size(at_sheets, laid):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    step.change("Size of sheets", size=(120.0, 90.0), seam="none")
    laid(window)
    assert "on no sheet" in step.sheets.told.text() and not step.sheets.save.isEnabled()
    step.change("Size of sheets", size=(0.0, 90.0))
    assert window.model.recipe.sheets.size == (120.0, 90.0) and "1 mm to 100 m" in window.notice.text()


def test_sheets_are_drawn_with_what_lies_on_them(at_sheets):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    image = window.canvas.grab().toImage()
    for sheet in step.layouts.layout.sheets:
        for one in sheet.laid:
            at = middle_of(window, one)
            assert image.pixelColor(at).name() == sheet.group.colour
            hit = step.scene.hit(window.canvas.view_point(QPointF(at)))
            assert hit.laid is one and shapely.intersects(one.shapes, shapely.Point(hit.at.x(), hit.at.y())).any()


def test_another_job_shows_its_own_sheets(at_sheets, laid, qtbot, tmp_path):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    path = tmp_path / "dot.png"
    Image.fromarray(draw('<circle cx="60" cy="60" r="40" fill="#2a6fdb"/>', 240, 120).rgba).save(path)
    window.open(path)
    qtbot.waitUntil(lambda: window.job_name.text() == "Dot")
    layout = laid(window)
    window.show_step("sheets")
    assert len(layout.sheets) == 1 and step.scene.layout is layout
    assert isinstance(step.scene, SheetScene) and step.scene.chosen is None


def test_other_open_jobs_lie_on_the_same_sheets(at_sheets, laid, qtbot, tmp_path):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    badge = window.model.current
    inks = {cut.ink.hex for cut in step.layouts.work.cuts}
    path = tmp_path / "dots.png"
    dot = f'<circle cx="30" cy="30" r="20" fill="{sorted(inks)[0]}"/><circle cx="90" cy="80" r="25" fill="#2a6fdb"/>'
    Image.fromarray(draw(dot, 240, 120).rgba).save(path)
    assert not step.laying.shared.isVisible()
    window.open(path)
    qtbot.waitUntil(lambda: window.job_name.text() == "Dots")
    layout = laid(window)
    window.show_step("sheets")
    alone = step.layouts.figures.timing.cut
    window.model.take(badge)
    qtbot.waitUntil(lambda: window.model.current is badge)
    whole = laid(window)
    before = step.layouts.figures.timing.cut
    window.show_step("sheets")
    assert step.laying.shared.isVisible()
    qtbot.mouseClick(step.laying.shared, Qt.MouseButton.LeftButton)
    assert window.model.undo_name == "Common sheets"
    layout = laid(window)
    guests = [one for sheet in layout.sheets for one in sheet.laid if one.item.body.layer.startswith("Dots//")]
    assert len(guests) == 1 and len(layout.sheets) == len(whole.sheets)
    assert before < step.layouts.figures.timing.cut < before + alone
    rows = [row.text() for row in step.sheets.findChildren(Elided)]
    assert [row for row in rows if row.endswith("6 + 1 pieces")]
    assert "other jobs" in step.takes.cutter.text()
    begin = middle_of(window, guests[0])
    drag(window, qtbot, begin, begin + QPoint(0, round(160 * window.canvas.zoom)))
    layout = laid(window)
    assert not layout.unplaced
    guest = next(one for sheet in layout.sheets for one in sheet.laid if one.item.body.layer.startswith("Dots//"))
    assert guest.by_hand and not guest.clashes
    assert guest.bounds[1] == pytest.approx(guests[0].bounds[1] + 160, abs=8 / window.canvas.zoom)
    (tmp_path / "both").mkdir()
    window.model.save_sheets(tmp_path / "both", step.layouts.work.guests)
    qtbot.waitUntil(lambda: window.model.sent != "")
    written = "".join(file.read_text() for file in (tmp_path / "both").iterdir())
    assert "dots" in written

    window.model.put_away(next(held for held in window.model.held if held is not badge))
    qtbot.waitUntil(lambda: step.layouts.work is not None and not step.layouts.work.guests)
    layout = laid(window)
    assert not layout.unplaced  # what waits for a job is not told as lost
    while window.model.undo_name:
        window.model.undo()
    laid(window)
    assert not step.laying.shared.isChecked() and not step.laying.shared.isVisible()


def test_sheets_are_made_ready_for_the_knife_saved_opened_and_undone(at_sheets, laid, qtbot, tmp_path):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    first = files_of_sheets(step.layouts.full)
    card = step.knife
    card.fold(False)
    plain = window.canvas.grab().toImage()
    for box, place in ((card.weeding, 1), (card.marks, 2)):
        box.setCurrentIndex(place)
        box.activated.emit(place)
    qtbot.mouseClick(card.lines, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(card.hanging, Qt.MouseButton.LeftButton)
    assert card.hole.isVisible() and card.hole.mm == 5
    typed(qtbot, card.hole, "4")
    typed(qtbot, card.kerf, "0.2")
    card.tabs.setValue(3)
    layout = laid(window)
    ready = window.model.recipe.sheets.ready
    assert (ready.weeding, ready.marks, ready.weeding_lines, ready.hole, ready.kerf, ready.tabs) == (
        "pieces", "crosses", True, (4.0, 5.0), 0.2, 3
    )  # fmt: skip
    assert {run.group for sheet in layout.sheets for run in sheet.runs} == {"cuts", "marks", "weeding"}
    assert card.aside.text() == "5 things" and window.canvas.grab().toImage() != plain
    made = files_of_sheets(step.layouts.full)
    assert opened_again(window, qtbot, tmp_path / "fair.loom") == made
    typed(qtbot, card.hole, "170")
    qtbot.waitUntil(lambda: "no room for a hole" in step.sheets.told.text())
    assert undone(window, laid) == first and card.aside.text() == ""


def test_a_sign_too_large_for_its_sheet_is_parted_and_told(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    first = files_of_sheets(step.layouts.full)
    step.seams.fold(False)
    assert step.seams.aside.text() == "" and step.seams.told.isVisible()
    window.model.change("Finished size", "finish", width=400.0, height=None)
    layout = laid(window)
    assert layout.seams and not layout.too_large
    rows = [row.text() for row in step.seams.findChildren(Elided)]
    many = len(layout.seams)
    assert step.seams.aside.text().startswith(f"{many}, ") and len([row for row in rows if "seen" in row]) == many
    assert "too large for a sheet, so parted by" in step.sheets.told.text() and step.sheets.save.isEnabled()
    place = step.seams.kind.findData("none")
    step.seams.kind.setCurrentIndex(place)
    step.seams.kind.activated.emit(place)
    layout = laid(window)
    assert layout.too_large and not layout.seams and not step.sheets.save.isEnabled()
    assert undone(window, laid) == first


def test_the_badge_as_a_sign_of_30_in_with_a_seam_dragged_saved_opened_and_undone(at_sheets, laid, qtbot, tmp_path):
    """Split for a small mat, a seam laid elsewhere by hand, marks and weeding boxes on."""
    window, step = at_sheets, at_sheets.by_key["sheets"]
    first = files_of_sheets(step.layouts.full)
    card = step.seams
    card.fold(False)
    window.model.change("Finished size", "finish", width=30 * 25.4, height=None)
    step.machine.fold(False)
    place = step.machine.cutter.findText(CUTTERS[0].name)
    step.machine.cutter.setCurrentIndex(place)
    step.machine.cutter.activated.emit(place)
    layout = laid(window)
    assert window.model.recipe.sheets.cutter == CUTTERS[0] and not layout.too_large and card.move.isVisible()
    qtbot.mouseClick(card.move, Qt.MouseButton.LeftButton)
    tool, canvas = window.canvas.working, window.canvas
    assert card.move.isChecked() and window.canvas.view == "Layers"
    number = max(range(len(layout.seams)), key=lambda number: layout.seams[number].length)
    before = layout.seams[number]
    points = [canvas.widget_point(at) for at in tool._seams()[number].line]
    middle = ((points[0] + points[1]) / 2).toPoint()
    across = QPoint(0, 6) if abs(points[1].x() - points[0].x()) > abs(points[1].y() - points[0].y()) else QPoint(-6, 0)
    drag(window, qtbot, middle, middle + across)
    layout = laid(window)
    assert window.model.undo_name == "Seam moved" and not layout.idle_seams and card.back.isVisible()
    moved = next(seam for seam in layout.seams if seam.layer == before.layer and seam.number == before.number)
    by = step.layouts.work.design.scale / canvas.zoom / canvas_px_per_source(window)
    there = before.line.mean(0) + np.array([across.x(), across.y()]) * by
    assert moved.by_hand and shapely.LineString(moved.line).distance(shapely.Point(there)) < 1.0
    seams = len(layout.seams)
    qtbot.keyClick(canvas, Qt.Key.Key_Escape)
    assert not card.move.isChecked()
    for box, at in ((step.knife.weeding, 1), (step.knife.marks, 1)):
        box.setCurrentIndex(at)
        box.activated.emit(at)
    layout = laid(window)
    assert len(layout.seams) >= seams and {run.group for sheet in layout.sheets for run in sheet.runs} >= {
        "cuts", "weeding"
    }  # fmt: skip
    made = files_of_sheets(step.layouts.full)
    assert opened_again(window, qtbot, tmp_path / "sign.loom") == made
    assert undone(window, laid) == first and not card.back.isVisible()


def canvas_px_per_source(window) -> float:
    """Screen pixels at a zoom of 1 for a length of 1 in source coordinates."""
    canvas = window.canvas
    ends = canvas.widget_point((0.4, 0.5)), canvas.widget_point((0.6, 0.5))
    return (ends[1].x() - ends[0].x()) / 0.2 / canvas.zoom


def test_seams_are_moved_by_keys_bent_straightened_and_taken_back(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    window.model.change("Finished size", "finish", width=330.0, height=None)
    step.seams.fold(False)
    layout = laid(window)
    assert layout.seams
    step.draw_with("seams")
    tool, canvas = window.canvas.working, window.canvas
    canvas.setFocus()
    qtbot.keyClick(canvas, Qt.Key.Key_Tab)
    assert tool.chosen == 0
    line = layout.seams[0].line
    qtbot.keyClick(canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert not window.model.recipe.sheets.seams  # until Enter
    qtbot.keyClick(canvas, Qt.Key.Key_Return)
    moved = laid(window).seams[0]
    assert moved.by_hand and moved.line[:, 0].mean() > line[:, 0].mean()
    bends = moved.bends
    points = tool._line(0)
    at = ((points[0] + points[1]) / 2).toPoint()
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseDClick(canvas, Qt.MouseButton.LeftButton, pos=at)
    bent = laid(window).seams[0]
    assert bent.bends == bends + 1
    qtbot.keyClick(canvas, Qt.Key.Key_Delete)
    assert laid(window).seams[0].bends == bends
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(canvas, QPoint(4, 4))
    before = window.model.recipe
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPoint(-4000, 4))
    assert window.model.recipe == before  # there it would part nothing
    qtbot.mouseClick(step.seams.back, Qt.MouseButton.LeftButton)
    assert laid(window).seams[0].line == pytest.approx(line) and not step.seams.back.isVisible()
    other = layout.seams[0].other
    if other is not None:
        step.take_other(0)
        assert laid(window).seams[0].line == pytest.approx(other.line, abs=1e-6)


def test_the_way_of_the_tool_is_shown_and_played(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    way = step.way
    way.fold(False)
    plain = window.canvas.grab().toImage()
    assert not way.slide.isVisible() and not way.play.isVisible()
    qtbot.mouseClick(way.shown, Qt.MouseButton.LeftButton)
    whole = window.canvas.grab().toImage()
    assert whole != plain and "in the order of the layers' files" in way.told.text()
    way.slide.setValue(500)
    half = window.canvas.grab().toImage()
    assert half not in (plain, whole) and way.told.text().startswith("Sheet ")
    played = step.layouts.played(way.seconds)
    times = step.layouts._now.schedules[played.sheet][played.run]
    assert times[0] - 5 <= way.seconds <= times[1]
    way.slide.setValue(0)
    assert way.told.text().startswith("Sheet 1, outline 1 of ")
    qtbot.mouseClick(way.play, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: way.slide.value() > 20)
    qtbot.mouseClick(way.play, Qt.MouseButton.LeftButton)
    rests = way.slide.value()
    qtbot.wait(120)
    assert way.slide.value() == rests and way.play.text() == "Play"
    step.laying.copies.setValue(2)
    laid(window)
    assert step.scene.layout is step.layouts.layout and window.canvas.grab().toImage() != half
    qtbot.mouseClick(way.shown, Qt.MouseButton.LeftButton)
    assert step.scene._played is None


def test_a_cutter_is_made_changed_taken_and_refuses_what_it_must_not_cut(at_sheets, laid, qtbot, tmp_path):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    card = step.cutters
    card.fold(False)
    many = card.which.count()
    card.copy.click()
    assert card.which.count() == many + 1 and MACHINES.path.is_file()
    for field, text in (
        (card.called, "Attic laser"),
        (card.lengths["usable_width"], "100mm"),
        (card.numbers["speed"], "25"),
    ):
        typed(qtbot, field, text)
    card.never["paper"].click()
    own = card.thing
    assert (own.name, own.usable_width, own.speed) == ("Attic laser", 100.0, 25.0) and "paper" in own.never
    step.machine.cutter.setCurrentIndex(step.machine.cutter.findText("Attic laser"))
    step.machine.cutter.activated.emit(step.machine.cutter.currentIndex())
    assert window.model.recipe.sheets.cutter == own
    layout = laid(window)
    assert layout.groups[0].usable[2] <= 100.0 and layout.seams and not layout.too_large
    window.model.change("Stock", "layers", stock=Stock("Grey paper", "paper"))
    laid(window)
    assert "must not be cut" in step.machine.caution.text()
    assert "must not be cut" in step.sheets.told.text() and not step.sheets.save.isEnabled()
    window.model.save_sheets(tmp_path)  # however it is asked for
    qtbot.waitUntil(lambda: "must not be cut" in window.notice.text())
    assert not list(tmp_path.iterdir())
    window.show_step("sheets")
    while window.model.undo_name:
        window.model.undo()
    laid(window)
    assert card.which.count() == many and window.model.recipe.sheets.cutter is None


def test_a_preset_is_kept_and_told_where_it_fits(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    window.model.change("Stock", "layers", stock=Stock("Grey paper", "paper"))
    step.change("Cutter", cutter=CUTTERS[0])
    laid(window)
    card = step.presets
    card.fold(False)
    card.new.click()
    assert (card.thing.stock, card.thing.cutter) == ("Grey paper", CUTTERS[0].name)
    for field, text in (
        (card.texts["tool"], "Fine blade"),
        (card.numbers["force"], "120"),
        (card.numbers["passes"], "2"),
    ):
        typed(qtbot, field, text)
    assert PRESETS.read()[0].passes == 2
    step.change("Copies", copies=2)
    laid(window)
    assert "Fine blade, force 120, 2 passes" in card.fits.text()


def test_one_stock_alone_is_nested(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    groups = step.layouts.layout.groups
    assert not step.laying.stock.isVisible()
    qtbot.mouseClick(step.laying.ways[True], Qt.MouseButton.LeftButton)
    assert all(group.nested for group in laid(window).groups)
    assert step.laying.stock.isVisible() and step.laying.stock.count() == len(groups) + 1
    step.laying.stock.setCurrentIndex(2)
    step.laying.stock.activated.emit(2)
    qtbot.mouseClick(step.laying.ways[False], Qt.MouseButton.LeftButton)
    assert [group.nested for group in laid(window).groups] == [True, False, True, True, True]
    step.laying.stock.setCurrentIndex(0)
    step.laying.stock.activated.emit(0)
    qtbot.mouseClick(step.laying.ways[False], Qt.MouseButton.LeftButton)
    assert not any(group.nested for group in laid(window).groups)


def test_the_size_is_typed_for_two_points(at_sheets, laid, qtbot):
    """The design is as wide as two points at its sides are apart: typing 90 mm for them halves 180 mm."""
    window, step = at_sheets, at_sheets.by_key["sheets"]
    step.machine.fold(False)
    qtbot.mouseClick(step.machine.measure, Qt.MouseButton.LeftButton)
    canvas = window.canvas
    assert canvas.view == "Layers" and canvas.tool is not None
    result = window.model.result
    places = step.layouts.work.design.to_source([(0.0, 60.0), (result.finished.size[0], 60.0)])
    drag(window, qtbot, *(canvas.widget_point(place).toPoint() for place in places))
    assert canvas.view == "Sheets" and step.machine.between.mm == pytest.approx(180.0, abs=0.5)
    ratio = 180.0 / step.machine.between.mm
    qtbot.keyClicks(step.machine.between, "90")
    qtbot.keyClick(step.machine.between, Qt.Key.Key_Return)
    laid(window)
    assert window.model.result.finished.size[0] == pytest.approx(90.0 * ratio, rel=1e-3)
    assert step.machine.between.mm == pytest.approx(90.0, abs=0.01)


def test_laying_out_is_told_and_can_be_stopped(at_sheets, laid, qtbot, monkeypatch):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    go_on = threading.Event()
    monkeypatch.setattr(step.layouts, "make_ahead", lambda _: go_on.wait(60))
    step.change("Copies", copies=2)
    qtbot.waitUntil(lambda: "laying out sheets" in window.over.quiet_words.text().lower())
    window.quiet.stop()
    assert "was stopped" in step.sheets.told.text() and step.layouts.layout is None
    go_on.set()
    step.change("Copies", copies=3)
    assert len(laid(window).sheets) > 0 and step.sheets.told.isHidden()


@pytest.mark.parametrize("gone", [False, True])
def test_sheets_that_are_laid_anew_under_the_hand(at_sheets, laid, qtbot, gone):
    """The piece is still held where it lies now; one that is gone is let go of."""
    window, step = at_sheets, at_sheets.by_key["sheets"]
    one = step.layouts.layout.sheets[2].laid[0]
    begin = middle_of(window, one)
    qtbot.mousePress(window.canvas, Qt.MouseButton.LeftButton, pos=begin)
    qtbot.mouseMove(window.canvas, begin + QPoint(20, 20))
    if gone:
        window.model.change("Hidden", "layers", rules=(LayerRule(one.item.body.layer, hidden=True),))
    else:
        step.change("Border", border=9.0)
    laid(window)
    window.canvas.grab()
    qtbot.mouseMove(window.canvas, begin + QPoint(60, 60))
    qtbot.mouseRelease(window.canvas, Qt.MouseButton.LeftButton, pos=begin + QPoint(60, 60))
    laid(window)
    moved = any(placed.layer == one.item.body.layer for placed in window.model.recipe.sheets.placements)
    assert moved is not gone and step.scene.lifted is None


def test_an_undo_while_a_seam_is_dragged_leaves_nothing_in_hand(at_sheets, laid, qtbot):
    window, step = at_sheets, at_sheets.by_key["sheets"]
    window.model.change("Finished size", "finish", width=330.0, height=None)
    assert laid(window).seams
    step.draw_with("seams")
    tool, canvas = window.canvas.working, window.canvas
    at = tool._line(0)[0].toPoint()
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseMove(canvas, at + QPoint(20, 20))
    window.model.undo()
    assert not laid(window).seams
    before = window.model.recipe
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at + QPoint(20, 20))
    assert window.model.recipe == before and tool._by.isNull()
