"""Do this with more pictures: the batch in the window, with progress, stop, going on and its list."""

import csv

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from sketchloom.core.job import BatchSettings, rows_of_batch, tasks_of
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def page(window, art, settled, qtbot, tmp_path, monkeypatch):
    """The page with a folder of pictures, one of them broken, and a folder for the files."""
    folder, out = tmp_path / "in", tmp_path / "out"
    (folder / "sub").mkdir(parents=True)
    for number in range(3):
        Image.fromarray(draw(FOUR_INKS, 70 + 10 * number).rgba).save(folder / "sub" / f"{number}.png")
    (folder / "broken.jpg").write_bytes(art.read_bytes()[:200])
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    window.set_size("width", 70.0)
    settled(window)
    window.commands.run("many")
    page = window.many
    assert not page.begin.isEnabled()
    for button, answer in ((page.folder, folder), (page.where, out)):
        monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, answer=answer: str(answer))
        qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert page.begin.isEnabled() and "all in “in”" in page.what.text()
    return page


def do(page, qtbot):
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not page.busy)
    assert page.begin.isVisible()


def files(folder):
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def test_files_are_those_of_the_command_and_each_picture_has_its_row(window, page, qtbot, tmp_path, monkeypatch):
    do(page, qtbot)
    assert sorted((row.picture, row.result) for row in page.rows.rows) == [
        ("broken.jpg", "failed"), ("sub/0.png", "done"), ("sub/1.png", "done"), ("sub/2.png", "done"),
    ]  # fmt: skip
    assert "3 done" in page.told.text() and "1 failed" in page.told.text()
    other = tmp_path / "other"
    settings = BatchSettings(window.model.recipe, ("svg",), check=True)
    list(rows_of_batch(tasks_of([tmp_path / "in"], other, ("svg",)), settings, other, 1))
    assert files(tmp_path / "out") == files(other) and len(files(other)) == 3
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "list"), ""))
    qtbot.mouseClick(page.report, Qt.MouseButton.LeftButton)
    with (tmp_path / "list.csv").open(newline="") as file:
        assert [row["result"] for row in csv.DictReader(file)] == ["failed", "done", "done", "done"]


def test_it_goes_on_with_what_is_missing_and_does_all_anew_after_a_change(window, page, qtbot, settled, tmp_path):
    do(page, qtbot)
    before = files(tmp_path / "out")
    (tmp_path / "out" / "sub" / "1.svg").unlink()
    do(page, qtbot)
    assert sorted(row.result for row in page.rows.rows) == ["done", "failed", "kept", "kept"]
    assert files(tmp_path / "out") == before
    window.set_size("width", 80.0)
    settled(window)
    do(page, qtbot)
    assert sorted(row.result for row in page.rows.rows) == ["done", "done", "done", "failed"]
    assert files(tmp_path / "out") != before


def test_stopped_each_picture_has_its_file_whole_or_none_and_the_window_works_on(
    window, page, qtbot, tmp_path, settled
):
    do(page, qtbot)
    whole = files(tmp_path / "out")
    page.resume.setChecked(False)
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(page.rows.rows))
    window.set_size("width", 75.0)  # the settings of what is being done stay
    qtbot.mouseClick(page.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not page.busy and "Stopped" in page.told.text())
    assert all(data == whole[name] for name, data in files(tmp_path / "out").items())
    settled(window)
    assert window.model.result.finished.size[0] == pytest.approx(75.0)


def test_the_strip_tells_of_it_when_the_page_is_closed_and_stops_it(window, page, qtbot):
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(page.rows.rows))
    window.stop()
    assert not page.isVisible()
    qtbot.waitUntil(lambda: "doing picture" in window.over.quiet_words.text().lower() or not page.busy)
    window.stop()
    qtbot.waitUntil(lambda: not page.busy)


def test_files_never_lie_among_the_pictures(page, qtbot, tmp_path):
    page._out = tmp_path / "in"
    before = files(tmp_path / "in")
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    assert "among the pictures" in page.told.text() and not page.busy and files(tmp_path / "in") == before


def test_a_folder_that_cannot_be_written_to_is_told(page, qtbot, tmp_path):
    (tmp_path / "file").write_bytes(b"")
    page._out = tmp_path / "file" / "out"
    qtbot.mouseClick(page.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not page.busy)
    assert page.begin.isVisible() and "out" in page.told.text() and not page.rows.rows


def test_without_a_format_or_pictures_nothing_begins(page, qtbot):
    qtbot.mouseClick(page.formats["svg"], Qt.MouseButton.LeftButton)
    assert not page.begin.isEnabled()
    qtbot.mouseClick(page.formats["dxf"], Qt.MouseButton.LeftButton)
    assert page.begin.isEnabled()
    qtbot.mouseClick(page.none, Qt.MouseButton.LeftButton)
    assert not page.begin.isEnabled() and "drop" in page.what.text()
