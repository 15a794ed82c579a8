"""A batch on a Dask cluster of two processes: the bytes of one machine, and a worker that is killed is survived."""

import os
import signal
import sys

import pytest

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import BatchSettings, Recipe, cluster, rows_of_batch, rows_on_cluster, tasks_of
from sketchloom.core.send import png_bytes
from tests.cli.test_batch import batch, table
from tests.conftest import FOUR_INKS, draw

distributed = pytest.importorskip("distributed")
SETTINGS = BatchSettings(Recipe(), ("svg", "dxf"), check=True)


@pytest.fixture(scope="module")
def workers():
    with distributed.LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, memory_limit=0
    ) as made:
        yield made


@pytest.fixture
def pictures(tmp_path):
    folder = tmp_path / "in"
    (folder / "sub").mkdir(parents=True)
    for number in range(7):
        place = folder / ("sub" if number % 3 == 0 else "") / f"plate-{number}.png"
        place.write_bytes(png_bytes(draw(FOUR_INKS, 90 + 20 * number).rgba, 96))
    (folder / "broken.jpg").write_bytes((folder / "plate-1.png").read_bytes()[:300])
    return folder


def done(pictures, out, rows):
    tasks = tasks_of([pictures], out, SETTINGS.formats)
    told = sorted(rows(tasks), key=lambda row: row.picture)
    made = {str(path.relative_to(out)): path.read_bytes() for path in out.rglob("*") if path.is_file()}
    return [row._replace(seconds=0.0) for row in told], made


def alone(pictures, out):
    return done(pictures, out, lambda tasks: rows_of_batch(tasks, SETTINGS, out, 1))


def test_a_cluster_gives_the_rows_and_bytes_of_one_machine(workers, pictures, tmp_path):
    here = alone(pictures, tmp_path / "here")
    there = done(pictures, tmp_path / "there", lambda tasks: rows_on_cluster(
        tasks, SETTINGS, tmp_path / "there", workers.scheduler_address))  # fmt: skip
    assert there == here
    assert len(there[1]) == 14 and [row.picture for row in there[0] if row.result == "failed"] == ["broken.jpg"]


def test_pictures_travel_to_workers_that_do_not_see_them(workers, pictures, tmp_path, monkeypatch):
    sent = []
    whole = cluster._Cluster._sent

    def elsewhere(self, task, travel):
        sent.append(travel)
        if travel:
            return whole(self, task, travel)
        seen = (str(task.picture), task.picture.stat().st_size + 1, 0)  # another file of that name
        return self._client.submit(
            cluster._on_worker, task.picture.name, seen, None, SETTINGS, cluster.sketchloom.__version__, pure=False
        )

    monkeypatch.setattr(cluster._Cluster, "_sent", elsewhere)
    there = done(pictures, tmp_path / "there", lambda tasks: rows_on_cluster(
        tasks, SETTINGS, tmp_path / "there", workers.scheduler_address))  # fmt: skip
    assert there == alone(pictures, tmp_path / "here")
    assert sent[0] is False and sent[-1] is True and sent.count(False) <= 4  # once told, all travel


def test_a_worker_that_is_killed_is_survived(workers, pictures, tmp_path):
    def rows(tasks):
        told = []
        for row in rows_on_cluster(tasks, SETTINGS, tmp_path / "there", workers.scheduler_address):
            if not told:
                nanny = next(iter(workers.workers.values()))
                os.kill(nanny.pid, signal.SIGKILL)
            told.append(row)
        return told

    assert done(pictures, tmp_path / "there", rows) == alone(pictures, tmp_path / "here")


def test_a_worker_of_another_version_is_told(workers, pictures, tmp_path, monkeypatch):
    monkeypatch.setattr(cluster.sketchloom, "__version__", "99.0")
    tasks = tasks_of([pictures / "plate-1.png"], tmp_path / "out", SETTINGS.formats)
    (row,) = rows_on_cluster(tasks, SETTINGS, tmp_path / "out", workers.scheduler_address)
    assert row.result == "failed" and "99.0" in row.sentence


def test_the_command_takes_a_scheduler_and_refuses_one_that_does_not_answer(
    workers, pictures, tmp_path, monkeypatch, capsys
):
    report = tmp_path / "rows.csv"
    assert batch(pictures, "-o", tmp_path / "out", "--scheduler", workers.scheduler_address, "--report", report) == 1
    assert [row["result"] for row in table(report).values()].count("done") == 7
    monkeypatch.setattr(cluster, "_PATIENCE", 0.5)
    for address in ("tcp://127.0.0.1:9", "nonsense", "tcp://"):
        capsys.readouterr()
        assert batch(pictures, "-o", tmp_path / "none", "--scheduler", address) == 2
        assert "scheduler" in capsys.readouterr().err, address


def test_without_dask_the_command_says_what_to_install(pictures, tmp_path, monkeypatch):
    monkeypatch.setitem(sys.modules, "distributed", None)
    with pytest.raises(ArgumentError, match="cluster"):
        next(rows_on_cluster([], SETTINGS, tmp_path, "tcp://127.0.0.1:1"))
