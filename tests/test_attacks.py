"""Made-up requests, broken files, kills: `nervykite bench fuzz` and `nervykite bench crash` go on for longer."""

from tools.bench.attack import attack, clear
from tools.bench.crash import crash
from tools.bench.edits import edits
from tools.bench.fuzz import files
from tools.bench.soak import soak


def test_whatever_is_asked_the_answer_is_quick_and_a_fault_of_nobody(monkeypatch):
    # Beside other tests, on cores that have much to do, an answer may wait for its turn; `bench fuzz` is stricter.
    monkeypatch.setattr("tools.bench.attack.SLOW", 20.0)
    found = attack(count=200)
    assert found.faults == []
    assert found.count == 200
    assert min(found.answers[200], found.answers[400]) > 25  # both what fits and what does not was asked


def test_edits_of_all_kinds_with_ids_of_all_kinds_leave_what_can_be_shown_and_undone():
    found = edits(240, seed=4)
    assert found.faults == []
    assert found.count >= 240
    assert found.answers[200] > 50


def test_three_people_at_work_leave_no_files_open_and_no_threads():
    found = soak(0.4)
    assert found.faults == []
    assert found.rounds > 1
    # So many films are kept open, and no more; each decodes in a few threads.
    assert max(look.files for look in found.looks) < 80
    assert max(look.threads for look in found.looks) < 80


def test_three_hundred_broken_files_are_read_as_far_as_they_go_or_refused_clearly():
    found = files(300)
    assert found.faults == []
    assert found.answers[200] > 100
    assert found.answers[400] > 30
    assert len(found.sentences) > 4


def test_kills_lose_no_answered_edit_and_leave_nothing_half():
    found = crash(3)
    assert found.faults == []
    assert (found.kills, found.answered > 10) == (3, True)


def test_what_is_a_clear_sentence():
    assert clear("That hold is no longer there. Choose another.")
    for vague in ("", "Oops", "Internal Server Error", "Send failed, and the program did not see that coming."):
        assert not clear(vague)
