"""`nervykite bench`: the command, in a checkout of the project."""

import argparse
from collections.abc import Callable
from pathlib import Path

from nervykite.core.common.errors import Refusal

from . import NAMES, run


def bench(options: argparse.Namespace) -> None:
    """Measures speed or quality, and prints a table."""
    if options.cases is not None and options.name != "matte":
        raise Refusal("--cases goes with “bench matte” only.")
    if (options.kinds is not None or options.without is not None) and options.name != "matte":
        raise Refusal("--kinds and --without go with “bench matte” only.")
    if options.scaling and options.name != "edit":
        raise Refusal("--scaling goes with “bench edit” only.")
    if options.minutes is not None and options.name not in ("fuzz", "soak"):
        raise Refusal("--minutes goes with “bench fuzz” and “bench soak” only.")
    if options.kills is not None and options.name != "crash":
        raise Refusal("--kills goes with “bench crash” only.")
    if options.blur and options.name not in ("picture", "export"):
        raise Refusal("--blur goes with “bench picture” and “bench export” only.")
    name = "edit_scaling" if options.scaling else "blur" if options.blur and options.name == "picture" else options.name
    blur = True if options.blur and options.name == "export" else None
    given = {"kinds": options.kinds, "without": options.without}
    given |= {"cases": options.cases, "minutes": options.minutes, "kills": options.kills, "blur": blur}
    run(name, options.json, **{k: v for k, v in given.items() if v is not None})


def add_bench(command: Callable[..., argparse.ArgumentParser]) -> None:
    """Adds the command and its options to the others, with what adds one by its name and what it does."""
    sub = command("bench", bench)
    sub.add_argument("name", choices=NAMES, help="what to measure")
    sub.add_argument("--json", type=Path, metavar="FILE", help="also write the figures there")
    sub.add_argument("--scaling", action="store_true", help="for edit: how its time grows with the piece")
    sub.add_argument("--blur", action="store_true", help="for picture and export: with motion blur")
    sub.add_argument("--cases", type=Path, metavar="DIR", help="for matte: a folder of cases of your own")
    sub.add_argument(
        "--kinds", nargs="?", const="", metavar="NAME", help="for matte: many kinds of shot, or those so named"
    )
    sub.add_argument("--without", metavar="NAME", help="for matte: and what they are with a voice left out")
    sub.add_argument("--minutes", type=float, metavar="N", help="for fuzz and soak: for how long")
    sub.add_argument("--kills", type=int, metavar="N", help="for crash: how often")
