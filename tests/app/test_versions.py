"""Versions through the window: kept, compared side by side, come back to."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QFileDialog, QPushButton

from sketchloom.app.beside.figures import difference
from sketchloom.app.steps.list_row import IconButton
from sketchloom.app.theme import theme
from sketchloom.app.theme.tokens import contrast
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import read_job


@pytest.fixture
def versioned(window, art, settled, qtbot):
    """The window with a version of 40 mm, one of 80 mm, and the job at 80 mm."""
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    for width in (40.0, 80.0):
        window.set_size("width", width)
        settled(window)
        window.commands.run("version")
    card = window.by_key["source"].versions
    card.fold(False)
    return window


def button(card, words) -> QPushButton:
    return next(one for one in card.findChildren(QPushButton) if one.accessibleName() == words and one.isVisible())


def both(page, qtbot):
    """Wait until both sides are worked out."""
    qtbot.waitUntil(lambda: page.left.half.side is not None and page.right.half.side is not None)
    return {row[0]: row[1:] for row in page.table.told}


def test_versions_are_kept_saved_and_come_back_to_and_undo_leads_on(versioned, settled, qtbot, tmp_path):
    window = versioned
    card = window.by_key["source"].versions
    assert card.aside.text() == "2" and window.model.current.dirty
    qtbot.mouseClick(button(card, "Back to Version 1"), Qt.MouseButton.LeftButton)
    settled(window)
    assert window.model.recipe.finish.width == 40.0 and window.model.undo_name == "Back to “Version 1”"
    window.model.save(tmp_path / "plate.loom")
    qtbot.waitUntil(lambda: not window.model.current.dirty)
    assert [version.name for version in read_job(tmp_path / "plate.loom").versions] == ["Version 1", "Version 2"]
    qtbot.mouseClick(button(card, "Remove Version 2"), Qt.MouseButton.LeftButton)
    assert card.aside.text() == "1" and window.model.current.dirty
    window.model.undo()
    assert card.aside.text() == "2" and not window.model.current.dirty
    window.model.undo()
    assert window.model.recipe.finish.width == 80.0


def test_what_takes_rows_away_can_be_seen_in_either_look_and_after_a_change_of_it(versioned):
    """At least 3 to 1 against what lies behind it (WCAG 2.2, 1.4.11), wherever the look was changed."""
    rows = [button for button in versioned.findChildren(IconButton) if button.isEnabled()]
    assert any("Version 1" in button.accessibleName() for button in rows) and len(rows) > 5
    for look in ("dark", "light"):
        versioned.choose(theme=look)
        for button in rows:
            image = button.icon().pixmap(14, 14).toImage()
            seen = [image.pixelColor(x, y) for x in range(image.width()) for y in range(image.height())]
            colour = max(seen, key=lambda one: one.alpha()).name()
            assert contrast(colour, theme.tokens.paper) >= 3, (look, button.accessibleName())


def test_a_version_is_renamed_where_it_stands(versioned):
    card = versioned.by_key["source"].versions
    field = card.rows.itemAt(0).widget().words
    field.setText("For the gate")
    field.setModified(True)
    field.editingFinished.emit()
    assert [version.name for version in versioned.model.versions] == ["Version 1", "For the gate"]


def test_a_version_beside_the_job_with_figures_and_both_look_at_one_place(versioned, qtbot):
    page = versioned.beside
    versioned.commands.run("beside")
    told = both(page, qtbot)
    assert page.isVisible() and page.left.box.currentText() == "Version “Version 1”"
    assert told["Width"] == ("40.0 mm", "80.0 mm", "40.0 mm more")
    assert told["Pieces"][2] == "the same"
    versioned.commands.run("unit")
    assert both(page, qtbot)["Width"] == ("4.00 cm", "8.00 cm", "4.00 cm more")
    versioned.choose(unit="mm")
    qtbot.waitUntil(lambda: "…" not in {word for row in page.table.told for word in row})  # sheets and findings follow
    assert all(row[3] for row in page.table.told)
    cut = [float(words.split()[0]) for words in told["Cut length"]]
    assert cut[1] == pytest.approx(2 * cut[0], rel=0.05)
    left, right = page.left.half, page.right.half
    page.look.zoom_by(4.0, QPointF(0.2, 0.3))
    for half in (left, right):  # what lies under the middle is the same place of both
        at = half._share(QPointF(half.width() / 2, half.height() / 2))
        assert (at.x(), at.y()) == pytest.approx((page.look.middle.x(), page.look.middle.y()), abs=1e-9)
    left.setFocus()
    before = page.look.zoom
    qtbot.keyClick(left, Qt.Key.Key_Plus)
    assert page.look.zoom > before
    qtbot.keyClick(left, Qt.Key.Key_F)
    assert page.look.zoom == 1.0
    versioned.stop()
    assert not page.isVisible()


def test_the_page_follows_changes_of_the_job_and_goes_on_with_a_version(versioned, settled, qtbot):
    page = versioned.beside
    versioned.commands.run("beside")
    both(page, qtbot)
    versioned.set_size("width", 60.0)
    settled(versioned)
    qtbot.waitUntil(lambda: {row[0]: row[1:] for row in page.table.told}["Width"][1] == "60.0 mm")
    versioned.model.remove_version(page.left.key.removeprefix("version "))
    qtbot.waitUntil(lambda: page.left.half.side is not None)
    assert page.left.key == "now" and not page.left.go.isEnabled()
    page._chosen(
        page.left, "version Version 1" if versioned.model.versions[0].name == "Version 1" else "version Version 2"
    )
    both(page, qtbot)
    wanted = versioned.model.versions[0].recipe
    qtbot.mouseClick(page.left.go, Qt.MouseButton.LeftButton)
    assert versioned.model.recipe == wanted and not page.isVisible()


def test_a_job_of_a_file_is_compared_and_a_broken_one_told(versioned, qtbot, tmp_path, monkeypatch):
    page = versioned.beside
    good, bad = tmp_path / "other.loom", tmp_path / "bad.loom"
    versioned.model.save_copy(good)
    qtbot.waitUntil(good.exists)
    bad.write_bytes(good.read_bytes()[:900])
    versioned.commands.run("beside")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(good), ""))
    page._chosen(page.right, "file")
    told = both(page, qtbot)
    assert page.right.box.currentText() == "other.loom" and told["Width"][1] == "80.0 mm"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(bad), ""))
    page._chosen(page.right, "file")
    qtbot.waitUntil(lambda: "bad.loom" in page.right.half._words)
    assert {row[0]: row[1:] for row in page.table.told}["Width"][1] == "–"


def test_where_sheets_cannot_be_had_pictures_stay_and_the_rest_is_a_dash(versioned, qtbot, monkeypatch):
    page = versioned.beside
    whole = versioned.model.pipeline.results

    def results(picture, recipe, progress, **asked):
        if "sheets" in asked.get("names", ()):
            raise ArgumentError("The sheets are all gone.")
        return whole(picture, recipe, progress, **asked)

    monkeypatch.setattr(versioned.model.pipeline, "results", results)
    versioned.commands.run("beside")
    both(page, qtbot)
    qtbot.waitUntil(lambda: page.left.trouble != "" and page.right.trouble != "")
    told = {row[0]: row[1:] for row in page.table.told}
    assert told["Sheets"] == ("–", "–", "") and told["Layers"][2] == "the same"
    assert page.left.half.side is not None and "gone" in versioned.notice.text()


def test_what_the_right_one_has_is_told_in_the_words_of_its_figure():
    count = lambda number: f"{number:.0f}"  # noqa: E731
    assert difference(3, 5, count) == "2 more"
    assert difference(5, 3, count) == "2 less"
    assert difference(3.0, 3.2, count) == "the same"
