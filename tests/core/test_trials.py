"""Fixes that are tried together: each is judged by its own place, and a check is run a few times, however many."""

from dataclasses import replace

import pytest

from sketchloom.core.elsewhere import subject_of
from sketchloom.core.elsewhere.svg_file import read_svg
from sketchloom.core.errors import Cancelled
from sketchloom.core.inspect import Memory, all_with_sure_fixes, find_all, mend_all, mending, trials, with_sure_fixes
from sketchloom.core.inspect import subject as subject_room
from sketchloom.core.layers import mend_cuts


def dumbbells(count, neck=0.4, gap=20.0):
    """Pieces with a narrow neck each, in rows."""
    side = 10 * gap
    body = "".join(
        f'<path fill="#c03030" d="M{gap * (i % 10)} {gap * (i // 10)}h8v{2.4 - neck / 2}h2v-{2.4 - neck / 2}h6v4.8h-6'
        f'v-{2.4 - neck / 2}h-2v{2.4 - neck / 2}h-8z"/>'
        for i in range(count)
    )
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{side}mm" height="{side}mm" viewBox="0 0 {side} {side}">'
    return subject_of(read_svg((head + body + "</svg>").encode(), "a.svg"), None, (), Memory.new())


@pytest.fixture
def checks(monkeypatch):
    """How often everything is checked."""
    ran = []
    for room in (trials, mending):
        monkeypatch.setattr(room, "find_all", lambda subject: ran.append(1) or find_all(subject))
    return ran


def test_many_fixes_are_tried_in_a_few_checks(checks):
    subject = dumbbells(60)
    found = find_all(subject)
    necks = [one for one in found if one.kind == "neck"]
    assert len(necks) == 60
    tried = all_with_sure_fixes(subject, found, necks)
    assert all(one.fix == "thicken" for one in tried)
    assert len(checks) <= 4


def test_all_are_mended_in_a_few_checks(checks):
    subject = dumbbells(60)
    found = find_all(subject)
    done = mend_all(subject, found, found)
    assert not [one for one in done.findings if one.kind == "neck"] and len(done.fixes) >= 60
    assert len(checks) <= 8


def test_a_fix_holds_together_with_others_where_it_holds_alone():
    subject = dumbbells(12)
    found = find_all(subject)
    together = all_with_sure_fixes(subject, found, found)
    assert together == tuple(with_sure_fixes(subject, found, one) for one in found)


def test_one_fix_that_does_not_hold_spoils_none_beside_it():
    # two arms that lie so close to a wall that widened they would grow together with it, among necks that can be
    body = "".join(
        f'<path fill="#c03030" d="M{25 * i + 5} 5h8v2.2h2v-2.2h6v4.8h-6v-2.2h-2v2.2h-8z"/>' for i in range(4)
    )
    body += '<path fill="#c03030" d="M5 40h8v2.2h12v-2.2h6v4.8h-6v-2.2h-12v2.2h-8z M13.3 42.75h11.4v2h-11.4z"/>'
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="60mm" viewBox="0 0 120 60">'
    subject = subject_of(read_svg((head + body + "</svg>").encode(), "a.svg"), None, (), Memory.new())
    found = find_all(subject)
    necks = [one for one in found if one.kind == "neck" and one.at[1] < 30]
    assert len(necks) == 4
    done = mend_all(subject, found, found)
    left = [one for one in done.findings if one.kind == "neck"]
    assert all(one.at[1] > 30 for one in left)
    assert len([one for one in done.fixes if one.name == "thicken"]) >= 4


def test_a_progress_that_is_called_off_stops_a_mend():
    def tick(share):
        assert 0 <= share <= 1
        raise Cancelled

    subject = dumbbells(4)
    found = find_all(subject)
    with pytest.raises(Cancelled):
        mend_all(subject, found, found, tick)


def test_mends_that_were_tried_as_a_whole_are_not_made_again(monkeypatch):
    made = []
    monkeypatch.setattr(subject_room, "mend_cuts", lambda *given: made.append(1) or mend_cuts(*given))
    drawing = dumbbells(9)
    found = find_all(drawing)
    done = mend_all(drawing, found, [one for one in found if one.kind == "neck"])
    assert len(done.fixes) == 9 and len(made) == 1  # tried, held, and taken as they are
    fresh = replace(drawing, memory=Memory.new()).mended(tuple(mend for fix in done.fixes for mend in fix.mends))
    assert [layer.digest for layer in fresh.layers] == [layer.digest for layer in done.subject.layers]
