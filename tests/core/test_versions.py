"""Versions of a job: kept by name, come back to, saved with it, and compared by figures."""

import json
import zipfile

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.errors import ArgumentError, SketchLoomError
from sketchloom.core.job import (
    COMPARED,
    MOST_VERSIONS,
    History,
    Job,
    Pipeline,
    Recipe,
    Version,
    figures_of_job,
    job_bytes,
    read_job,
    report_of,
)
from sketchloom.core.send import png_bytes
from tests.conftest import FOUR_INKS, draw, tries

WIDE = Recipe().with_("finish", width=80.0)
NARROW = Recipe().with_("finish", width=40.0)


def names(history):
    return [version.name for version in history.versions]


def test_a_version_outlives_undo_and_what_was_undone_outlives_a_removed_version():
    history = History(Recipe())
    history.push("Wide", WIDE)
    history.keep_version("", 5)
    history.undo()
    assert names(history) == ["Version 1"]
    assert history.version("Version 1") == Version("Version 1", WIDE, 5)
    history.remove_version("Version 1")
    assert names(history) == [] and history.redo_name == "Wide"
    assert history.undo() and names(history) == ["Version 1"]
    assert history.redo() and names(history) == []
    assert history.redo() and history.recipe == WIDE


def test_a_version_is_renamed_to_a_free_name_only_and_undo_takes_that_back():
    history = History(WIDE)
    first, second = history.keep_version("", 1), history.keep_version("", 2)
    assert (first.name, second.name) == ("Version 1", "Version 2")
    for bad in ("version 2", "", " ", "a" * 61, "a\nb"):
        with pytest.raises(ArgumentError):
            history.rename_version("Version 1", bad)
    history.rename_version("Version 1", "For the gate")
    assert names(history) == ["For the gate", "Version 2"]
    history.undo()
    assert names(history) == ["Version 1", "Version 2"]
    history.redo()
    assert names(history) == ["For the gate", "Version 2"]
    assert history.keep_version("For the gate", 3).name == "For the gate 2"


def test_a_version_that_comes_back_lies_where_it_was_under_a_name_that_is_free():
    history = History(WIDE)
    for at in range(3):
        history.keep_version("", at)
    history.remove_version("Version 2")
    history.keep_version("Version 2", 9)
    history.undo()
    assert [(version.name, version.at) for version in history.versions] == [
        ("Version 1", 0), ("Version 2 2", 1), ("Version 3", 2), ("Version 2", 9),
    ]  # fmt: skip


def test_a_job_keeps_no_more_versions_than_it_says():
    history = History(WIDE)
    for number in range(MOST_VERSIONS):
        history.keep_version("", number)
    with pytest.raises(ArgumentError, match="at most"):
        history.keep_version("", 0)


def test_a_job_holds_no_more_of_them_than_can_be_read_again(monkeypatch, tmp_path):
    monkeypatch.setattr("sketchloom.core.job.versions._MOST_BYTES", 20_000)
    monkeypatch.setattr("sketchloom.core.job.jobfile._LARGE", 10_000)
    history = History(WIDE)
    with pytest.raises(ArgumentError, match="room"):
        for number in range(MOST_VERSIONS):
            history.keep_version("", number)
    assert 5 < len(history.versions) < MOST_VERSIONS
    job = Job("A", "a.png", b"x", WIDE, versions=history.versions)
    (tmp_path / "a.loom").write_bytes(job_bytes(job))
    assert read_job(tmp_path / "a.loom") == job


ACTS = st.lists(
    st.tuples(st.sampled_from(["push", "keep", "remove", "rename", "undo", "redo", "jump"]), st.integers(0, 5))
)


@tries(60)
@given(ACTS)
def test_whatever_is_done_names_stay_apart_and_all_undone_leads_back_to_what_was_kept(acts):
    history = History(Recipe())
    for number, (act, at) in enumerate(acts):
        here = names(history)
        if act == "push":
            history.push(f"Width {at}", Recipe().with_("finish", width=10.0 + at))
        elif act == "keep":
            history.keep_version("", number)
        elif act == "remove" and here:
            history.remove_version(here[at % len(here)])
        elif act == "rename" and here and f"Name {at}" not in here:
            history.rename_version(here[at % len(here)], f"Name {at}")
        elif act == "jump":
            history.jump(at)
        elif act in ("undo", "redo"):
            getattr(history, act)()
        assert len({name.casefold() for name in names(history)}) == len(history.versions)
    kept = {version.at for version in history.versions}
    while history.undo():
        assert {version.at for version in history.versions} >= kept  # undo takes no version away
        kept = {version.at for version in history.versions}
    asked = {number for number, (act, _) in enumerate(acts) if act == "keep"}
    assert kept == asked


@pytest.fixture
def job():
    picture = png_bytes(draw(FOUR_INKS, 120).rgba, 96)
    versions = (Version("Gate", NARROW, 100), Version("Banner ähn", Recipe(), 200))
    return Job("Plate", "plate.png", picture, WIDE, versions=versions)


def test_versions_are_saved_with_the_job(job, tmp_path):
    path = tmp_path / "plate.loom"
    path.write_bytes(job_bytes(job))
    assert read_job(path) == job


def rewritten(path, change):
    """The same job file with its settings changed."""
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    head = json.loads(parts["job.json"])
    change(head)
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in {**parts, "job.json": json.dumps(head).encode()}.items():
            archive.writestr(name, data)


def test_a_job_of_the_version_before_has_none(job, tmp_path):
    path = tmp_path / "plate.loom"
    path.write_bytes(job_bytes(job))

    def older(head):
        head["version"] = 3
        del head["versions"]

    rewritten(path, older)
    assert read_job(path) == msgspec.structs.replace(job, versions=())


@pytest.mark.parametrize(
    "change",
    [
        lambda head: head["versions"].append(head["versions"][0]),
        lambda head: head["versions"].extend({**head["versions"][0], "name": f"v{n}"} for n in range(MOST_VERSIONS)),
        lambda head: head["versions"][0].update(name="a\x00b"),
        lambda head: head["versions"][0].update(name="x" * 1000),
        lambda head: head["versions"][0]["recipe"]["finish"].update(width=-3.0),
        lambda head: head.update(versions={"a": 1}),
    ],
)
def test_versions_that_cannot_be_come_back_to_are_refused_in_a_sentence(job, tmp_path, change):
    path = tmp_path / "plate.loom"
    path.write_bytes(job_bytes(job))
    rewritten(path, change)
    with pytest.raises(SketchLoomError):
        read_job(path)


def test_figures_are_those_of_the_report():
    result = Pipeline().results(draw(FOUR_INKS, 200), WIDE, names=(*COMPARED, "narrowest"))
    figures, layers = figures_of_job(result), report_of(result)["layers"]
    assert figures.layers == len(layers) == 4
    assert figures.pieces == sum(layer["pieces"] for layer in layers)
    assert figures.nodes == sum(layer["nodes"] for layer in layers)
    assert figures.cut_length == pytest.approx(sum(layer["cut_length_mm"] for layer in layers), abs=0.01)
    assert figures.size[0] == pytest.approx(80.0)
    assert figures.sheets == len(result.layout.sheets)
