"""What is called in a process of its own: its answers, its bounds, and its end."""

import os
import signal
import threading
import time

import numpy as np
import pytest

from nervykite.core.common.apart import Apart, Bounds, TooMuch
from nervykite.core.common.errors import Cancelled, Refusal


def doubled(picture: np.ndarray) -> np.ndarray:
    return picture * 2


def process() -> int:
    return os.getpid()


def refuses(what: str) -> None:
    raise Refusal(f"{what} is not wanted.")


def waits(seconds: float) -> None:
    time.sleep(seconds)


def holds(numbers: int) -> int:
    """Never lets go of the interpreter before it has ended."""
    return sum(range(numbers))


def fills(size: int) -> int:
    return len(bytearray(size))


def answers(size: int) -> bytes:
    return bytes(size)


def falls(how: int) -> None:
    os.kill(os.getpid(), how)


def breaks() -> None:
    raise KeyError("nothing that anybody foresaw")


@pytest.fixture
def apart():
    made = Apart(Bounds(seconds=1.5, memory=200 << 20, answer=1 << 20, calls=4))
    yield made
    made.close()


def gone(process: int) -> bool:
    return not os.path.exists(f"/proc/{process}")


def test_the_answer_comes_back_from_another_process(apart):
    assert (apart.call(doubled, np.arange(6, dtype=np.uint8), name="a.png") == [0, 2, 4, 6, 8, 10]).all()
    assert apart.call(process, name="a.png") != os.getpid()


def test_the_process_is_kept_and_gives_way_after_so_many_calls(apart):
    asked = [apart.call(process, name="a.png") for _ in range(5)]
    assert len(set(asked[:4])) == 1
    assert asked[4] != asked[0]
    assert gone(asked[0])


def test_a_refusal_is_the_functions_own_and_the_process_stays(apart):
    first = apart.call(process, name="a.svg")
    with pytest.raises(Refusal, match=r"^a\.svg is not wanted\.$"):
        apart.call(refuses, "a.svg", name="a.svg")
    assert apart.call(process, name="a.svg") == first


@pytest.mark.parametrize(
    ("function", "given", "says"),
    [
        (waits, 60, "a.svg takes longer than 1.5 seconds"),
        (fills, 4 << 30, "a.svg takes more memory"),
        (answers, 2 << 20, "a.svg takes more memory"),
        (falls, signal.SIGSEGV, "a.svg cannot be read: it is damaged"),
        (falls, signal.SIGKILL, "a.svg cannot be read: it is damaged"),
    ],
)
def test_what_takes_too_much_or_falls_over_is_refused_and_ended(apart, function, given, says):
    before = apart.call(process, name="a.svg")
    begun = time.monotonic()
    with pytest.raises(TooMuch, match=says):
        apart.call(function, given, name="a.svg")
    assert time.monotonic() - begun < 20
    assert gone(before)
    assert (apart.call(doubled, np.ones(2), name="b.png") == 2).all()  # and the next file is read


def test_what_nobody_foresaw_is_a_sentence_and_goes_to_the_log(apart, caplog):
    with pytest.raises(TooMuch, match=r"^a\.ttf cannot be read"):
        apart.call(breaks, name="a.ttf")
    assert "nothing that anybody foresaw" in caplog.text


def test_who_is_cancelled_does_not_wait_for_it(apart):
    before = apart.call(process, name="a.svg")

    def stops(share: float) -> None:
        raise Cancelled

    begun = time.monotonic()
    with pytest.raises(Cancelled):
        apart.call(waits, 60, name="a.svg", report=stops)
    assert time.monotonic() - begun < 1.4
    assert gone(before)


def test_beside_it_everything_goes_on(apart):
    """A call that holds its interpreter for as long as it lasts holds nobody else's."""
    apart.call(process, name="a.svg")
    late: list[float] = []

    def waits_for_it() -> None:
        with pytest.raises(TooMuch):
            apart.call(holds, 10**11, name="a.svg")

    waiting = threading.Thread(target=waits_for_it)
    waiting.start()
    while waiting.is_alive():
        begun = time.monotonic()
        time.sleep(0.001)
        late.append(time.monotonic() - begun)
    assert len(late) > 300
    assert np.median(late) < 0.01


def test_several_threads_take_turns(apart):
    sums: list[int] = []
    threads = [
        threading.Thread(target=lambda n=n: sums.append(int(apart.call(doubled, np.full(3, n), name="a").sum())))
        for n in range(6)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(sums) == [0, 6, 12, 18, 24, 30]


def test_closed_it_leaves_no_process_behind():
    made = Apart()
    asked = made.call(process, name="a.png")
    made.close()
    assert gone(asked)
