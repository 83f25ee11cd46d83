"""The one search: what is heard is weighed, cut and learned from."""

from dataclasses import dataclass, field

import numpy as np
import pytest

from nervykite.core.see.carry.contour_search import SETTLE
from nervykite.core.see.find.marks import MARKS
from nervykite.core.see.find.mover import MOVER
from nervykite.core.see.find.person import PERSON
from nervykite.core.see.find.search import SearchSettings, Turn, overlap, replaced, search, without

H, W = 40, 50


@dataclass
class View:
    """Something to search in; it notes what it was asked."""

    pairwise: np.ndarray = field(default_factory=lambda: np.full((H, W), 0.2, np.float32))
    learned: list[int] = field(default_factory=list)
    enough: int = 99

    def turn(self, number, found):
        if number >= self.enough:
            return None
        self.learned.append(number)
        nothing, nowhere = np.zeros((H, W), np.float32), np.zeros((H, W), bool)
        ours = nowhere if found is None else found > 0.5
        return Turn(number, found, ours, ~ours, nothing, nothing, nothing, nothing.copy())

    def box(self, turn):
        return slice(0, H), slice(0, W)

    def bound(self, turn):
        turn.unary[0, 0] = -40
        return turn.unary

    def whole(self, found):
        return found


def square(view, turn):
    says = np.full((H, W), -1, np.float32)
    says[10:30, 10:30] = 1
    return says


def silent(view, turn):
    return None


def grows(view, turn):
    """What was found goes on to the right."""
    return None if turn.found is None else 3 * np.roll(turn.found, 3, 1)


class TestSearch:
    def test_what_is_said_is_found(self):
        found, turn = search(View(), (square, silent), SearchSettings(turns=1, steps=200))
        assert overlap(found > 0.5, square(None, None) > 0) > 0.95
        assert turn.number == 0

    def test_what_is_found_teaches_the_next_turn(self):
        once, _ = search(View(), (square, grows), SearchSettings(turns=1, steps=200))
        again, turn = search(View(), (square, grows), SearchSettings(turns=3, steps=200))
        assert turn.number == 2
        assert (again > 0.5).sum() > (once > 0.5).sum() + 60

    def test_it_ends_once_it_has_settled(self):
        view = View()
        search(view, (square,), SearchSettings(turns=9, steps=200, settled=0.99))
        assert view.learned == [0, 1]

    def test_it_ends_where_there_is_too_little_to_learn_from(self):
        view = View(enough=2)
        _, turn = search(view, (square, grows), SearchSettings(turns=9, steps=200))
        assert turn.number == 1

    def test_later_evidence_sees_what_was_said_before(self):
        seen = []

        def last(view, turn):
            seen.append(turn.unary.copy())

        search(View(), (square, last), SearchSettings(turns=1, steps=20))
        assert np.array_equal(seen[0], square(None, None))

    def test_what_is_certain_stays(self):
        def everywhere(view, turn):
            return np.full((H, W), 5, np.float32)

        found, _ = search(View(), (everywhere,), SearchSettings(turns=1, steps=200))
        assert found[0, 0] < 0.5
        assert found[5:].min() > 0.5


class TestNames:
    @pytest.mark.parametrize("evidence", [MARKS, MOVER, PERSON, SETTLE], ids=["marks", "mover", "person", "carry"])
    def test_each_voice_has_a_name_of_its_own_and_says_what_it_is(self, evidence):
        names = [e.__name__ for e in evidence]
        assert len(set(names)) == len(names)
        assert all((e.__doc__ or "").strip().endswith(".") for e in evidence)

    def test_some_are_left_out_or_replaced_by_name(self):
        def square(view, turn):
            return 0.0

        assert without((silent, grows), "grows", "nobody") == (silent,)
        assert replaced((globals()["square"], silent), square) == (square, silent)
