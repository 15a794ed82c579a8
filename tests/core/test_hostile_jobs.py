"""Job files that were cut, spoilt or made to do harm: opened rightly or refused in one sentence, within 500 MB."""

import io
import json
import random
import struct
import subprocess
import sys
import tempfile
import zipfile
import zlib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.errors import JobError, SketchLoomError
from sketchloom.core.job import Job, Recipe, Version, job_bytes, read_job
from sketchloom.core.job.jobfile import decode_head
from sketchloom.core.opening import MOST_BYTES
from sketchloom.core.send import png_bytes
from tests.conftest import FOUR_INKS, draw, tries

MOST_MEMORY = 500_000_000
READER = f"""
import resource, sys
from pathlib import Path
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job import glance, read_job
from sketchloom.core.picture import load_picture
used = [int(line.split()[1]) * 1024 for line in open('/proc/self/status') if line.startswith('VmData')][0]
resource.setrlimit(resource.RLIMIT_DATA, (used + {MOST_MEMORY}, -1))
for name in sys.argv[1:]:
    try:
        job = read_job(Path(name))
        load_picture(job.picture, job.picture_name, job.page, job.dpi)
        print('opened', len(job.picture))
    except SketchLoomError as error:
        assert '\\n' not in str(error) and str(error).endswith('.')
        print('refused', error)
    glance(Path(name))
"""


@pytest.fixture(scope="module")
def job():
    recipe = Recipe().with_("finish", width=80.0)
    picture = png_bytes(draw(FOUR_INKS, 420).rgba, 96)
    return Job("Plate", "plate.png", picture, recipe, versions=(Version("First", Recipe(), 7),))


@pytest.fixture(scope="module")
def whole(job):
    noise = random.Random(1).randbytes(30_000)
    return job_bytes(job, b"<svg>" + noise + b"</svg>", noise)


def everything(folder):
    return sorted(path.relative_to(folder) for path in folder.rglob("*"))


def test_cut_at_every_kibibyte_it_is_refused_in_a_sentence(whole, tmp_path):
    assert len(whole) > 60_000
    path = tmp_path / "cut.loom"
    for at in range(0, len(whole), 1024):
        path.write_bytes(whole[:at])
        with pytest.raises(JobError, match=r"cut\.loom .*\.$"):
            read_job(path)
    assert everything(tmp_path) == [path.relative_to(tmp_path)]


def test_with_flipped_bytes_it_is_that_job_or_refused(job, whole, tmp_path):
    path, chance, opened = tmp_path / "flipped.loom", random.Random(2), 0
    for turn in range(400):
        data = bytearray(whole)
        for _ in range(chance.choice((1, 1, 3, 40))):
            at = chance.randrange(len(data)) if turn % 2 else len(data) - 1 - chance.randrange(700)
            data[at] = chance.randrange(256)
        path.write_bytes(data)
        try:
            found = read_job(path)
        except SketchLoomError as error:
            assert "\n" not in str(error)
        else:
            opened += 1  # what was spoilt is nothing that a job needs
            assert (found.picture, found.recipe, found.versions) == (job.picture, job.recipe, job.versions)
    assert 0 < opened < 400


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
    max_leaves=6,
)


def places(value, path=()):
    """Ways to every value of decoded JSON."""
    yield path
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, inner in items:
        yield from places(inner, (*path, key))


@tries(300)
@given(st.data())
def test_any_value_in_any_place_of_the_settings_is_read_or_refused(whole, data):
    with zipfile.ZipFile(io.BytesIO(whole)) as made:
        settings = json.loads(made.read("job.json"))
    way = data.draw(st.sampled_from([way for way in places(settings) if way]))
    at = settings
    for key in way[:-1]:
        at = at[key]
    at[way[-1]] = data.draw(JSON)
    try:
        found = decode_head(json.dumps(settings).encode(), b"x", "It")
    except SketchLoomError as error:
        assert "\n" not in str(error)
    else:
        assert read_back(found) == found


def read_back(job):
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.loom"
        path.write_bytes(job_bytes(job))
        return read_job(path)


def archive(parts, path):
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in parts:
            made.writestr(name, data)
    return path


def head(**more):
    return json.dumps({"version": 4, "name": "A", "picture": "pictures/a.png", "recipe": {}, **more}).encode()


@pytest.mark.parametrize(
    "name",
    ["../../up.png", "/etc/passwd", "pictures/../../../up.png", "C:\\up.png", "..", "a/../..", "pictures/\x00.png"],
)
def test_a_picture_whose_path_climbs_out_is_named_by_its_last_part_and_nothing_is_written(tmp_path, name, job):
    folder = tmp_path / "in"
    folder.mkdir()
    path = archive([("job.json", head(picture=name)), (name, job.picture)], folder / "a.loom")
    before = everything(tmp_path)
    try:
        found = read_job(path)
    except SketchLoomError:
        pass
    else:
        assert "/" not in found.picture_name and found.picture == job.picture
        again = folder / "b.loom"
        again.write_bytes(job_bytes(found))
        with zipfile.ZipFile(again) as made:
            assert all(not one.startswith(("/", "..")) and "/../" not in one for one in made.namelist())
        again.unlink()
    assert everything(tmp_path) == before


def bomb(path, gigabytes, told=None):
    """A job whose picture unpacks to so many GB of nothing; `told` is the size that its archive tells of."""
    packer = zlib.compressobj(9, zlib.DEFLATED, -15)
    part = packer.compress(bytes(1 << 26)) + packer.flush(zlib.Z_FULL_FLUSH)  # stands for itself wherever it is put
    packed = part * int(gigabytes * 16) + packer.flush()
    path = archive([("job.json", head())], path)
    with zipfile.ZipFile(path, "a") as made:
        made.writestr("pictures/a.png", b"here")
    data = bytearray(path.read_bytes())
    at = data.index(b"PK\x03\x04", 10)
    names = len(b"pictures/a.png")
    central = data.index(b"PK\x01\x02")
    first = data[central : data.index(b"PK\x01\x02", central + 4)]
    size = told if told is not None else min(int(gigabytes * 2**30), 2**32 - 2)
    local = struct.pack("<4s5H3I2H", b"PK\x03\x04", 20, 0, 8, 0, 33, 0, len(packed), size, names, 0)
    body = bytes(data[:at]) + local + b"pictures/a.png" + packed
    entry = struct.pack(
        "<4s6H3I5H2I", b"PK\x01\x02", 20, 20, 0, 8, 0, 33, 0, len(packed), size, names, 0, 0, 0, 0, 0, at
    )
    listed = bytes(first) + entry + b"pictures/a.png"
    end = struct.pack("<4s4H2IH", b"PK\x05\x06", 0, 0, 2, 2, len(listed), len(body), 0)
    path.write_bytes(body + listed + end)
    return path


def test_bombs_and_deep_settings_take_no_memory(tmp_path, whole):
    (tmp_path / "whole.loom").write_bytes(whole)
    bomb(tmp_path / "bomb.loom", 10)
    bomb(tmp_path / "small-bomb.loom", 0.9)
    bomb(tmp_path / "lying-bomb.loom", 10, told=5_000_000)
    archive([("job.json", b'{"version":4,"recipe":' + b"[" * 100_000 + b"]" * 100_000 + b"}")], tmp_path / "deep.loom")
    archive([("job.json", head(versions=[{"name": f"v{n}", "recipe": {}} for n in range(100_000)])),
             ("pictures/a.png", b"x")], tmp_path / "many.loom")  # fmt: skip
    archive([("job.json", b" " * 900_000_000), ("pictures/a.png", b"x")], tmp_path / "blank.loom")
    with (tmp_path / "sparse.loom").open("wb") as file:
        file.truncate(20_000_000_000)
    with (tmp_path / "sparse.png").open("wb") as file:
        file.write(b"\x89PNG\r\n\x1a\n")
        file.truncate(20_000_000_000)
    names = sorted(str(path) for path in tmp_path.iterdir())
    assert zipfile.ZipFile(tmp_path / "bomb.loom").infolist()[1].file_size > 4_000_000_000
    run = subprocess.run([sys.executable, "-c", READER, *names], capture_output=True, text=True, check=False)
    assert run.returncode == 0, run.stderr[-2000:]
    told = run.stdout.splitlines()
    assert [line.split()[0] for line in told] == ["refused"] * (len(names) - 1) + ["opened"], told


def test_a_file_beyond_what_is_read_whole_is_refused_by_its_size(tmp_path):
    from sketchloom.core.errors import PictureError
    from sketchloom.core.picture import load_picture

    with (tmp_path / "a.png").open("wb") as file:
        file.truncate(MOST_BYTES + 1)
    with pytest.raises(PictureError, match="larger than"):
        load_picture(tmp_path / "a.png")


def test_members_that_are_listed_twice_missing_or_folders_are_told(tmp_path, job):
    listed = [
        [("job.json", head()), ("pictures/b.png", job.picture)],
        [("pictures/a.png", job.picture)],
        [("job.json", head(picture="pictures/")), ("pictures/", b"")],
        [("job.json", b"\x00" * 100)],
        [],
    ]
    for number, parts in enumerate(listed):
        path = archive(parts, tmp_path / f"{number}.loom")
        try:
            assert read_job(path).picture == b""
        except JobError as error:
            assert "\n" not in str(error)
    encrypted = bytearray(
        archive([("job.json", head()), ("pictures/a.png", job.picture)], tmp_path / "e.loom").read_bytes()
    )
    encrypted[encrypted.index(b"PK\x01\x02") + 8] |= 1
    (tmp_path / "e.loom").write_bytes(encrypted)
    with pytest.raises(JobError):
        read_job(tmp_path / "e.loom")
