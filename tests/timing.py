"""Where a run's time goes: the slowest tests and fixtures, and the time by folder, told at the end and kept in a file.

Every test is timed in three parts (set-up, the test, teardown), every fixture by itself. The file is
`.stamps/timings.json` for a run of everything, beside it for others; it is no part of the project.
"""

import json
import time
from collections import defaultdict
from pathlib import Path

import pytest

from . import proved

KEPT = Path(__file__).parents[1] / ".stamps" / "timings.json"
SHOWN = 30
"""So many of the slowest are told."""
PHASES = ("setup", "call", "teardown")

_tests: dict[str, dict[str, float]] = defaultdict(lambda: dict.fromkeys(PHASES, 0.0))
_fixtures: list[tuple[float, str, str]] = []
_made: list[tuple[str, float]] = []


@pytest.hookimpl(hookwrapper=True)
def pytest_fixture_setup(fixturedef, request):
    """Times a fixture; those that it needs are there already."""
    begun = time.perf_counter()
    yield
    _made.append((fixturedef.argname, time.perf_counter() - begun))


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item, call):
    """Sends the times of a test's fixtures along with the report of its set-up."""
    if call.when == "setup":
        item.user_properties.append(("fixtures", list(_made)))
        _made.clear()
    yield


def pytest_runtest_logreport(report):
    """Takes down how long a part of a test took, where reports come together."""
    if report.when not in PHASES:  # of a worker that has ended
        return
    proved.take_down(report)
    _tests[report.nodeid][report.when] += report.duration
    if report.when == "setup":
        for name, made in report.user_properties:
            if name == "fixtures":
                _fixtures.extend((seconds, fixture, report.nodeid) for fixture, seconds in made)


def pytest_terminal_summary(terminalreporter, config):
    """Tells what was left out, and where the time went."""
    if hasattr(config, "workerinput"):
        return
    proved.tell(config, terminalreporter.write_line, {test: sum(parts.values()) for test, parts in _tests.items()})
    if len(_tests) < SHOWN:
        return
    folders: dict[str, dict[str, float]] = defaultdict(lambda: dict.fromkeys((*PHASES, "tests"), 0.0))
    for test, parts in _tests.items():
        row = folders[str(Path(test.split("::")[0]).parent)]
        row["tests"] += 1
        for phase in PHASES:
            row[phase] += parts[phase]
    slowest = sorted(_tests, key=lambda t: -sum(_tests[t].values()))
    fixtures = sorted((f for f in _fixtures if f[0] >= 1), reverse=True)
    KEPT.parent.mkdir(exist_ok=True)
    kept = KEPT if proved.whole(config) else KEPT.with_stem("timings-of-some")
    kept.write_text(json.dumps({"folders": folders, "tests": _tests, "fixtures": fixtures}, indent=1))

    say = terminalreporter
    say.section("where the time went")
    say.write_line(f"{'':24}{'tests':>8}{'set-up':>10}{'test':>10}{'teardown':>10}   seconds of all workers")
    for folder, row in sorted(folders.items(), key=lambda f: -sum(f[1][p] for p in PHASES)):
        say.write_line(f"{folder:24}{row['tests']:8.0f}{row['setup']:10.1f}{row['call']:10.1f}{row['teardown']:10.1f}")
    say.write_line(f"the {SHOWN} slowest tests (set-up + test + teardown):")
    for test in slowest[:SHOWN]:
        parts = _tests[test]
        say.write_line("  {:6.1f} + {:6.1f} + {:4.1f}  {}".format(*(parts[p] for p in PHASES), test))
    say.write_line("the slowest fixtures:")
    for seconds, fixture, test in fixtures[:10]:
        say.write_line(f"  {seconds:6.1f}  {fixture}, made for {test}")
