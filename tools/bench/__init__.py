"""Measurements of speed and quality, as ratios to a baseline in the same run: `nervykite bench NAME`."""

import importlib
import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from nervykite.core.common.errors import Refusal

NAMES = (
    "picture",
    "export",
    "seek",
    "edit",
    "page",
    "playback",
    "scaling",
    "finishes",
    "lettering",
    "sound",
    "track",
    "footage",
    "catch",
    "first-minute",
    "matte",
    "plate",
    "carry",
    "ground",
    "sky",
    "fuzz",
    "crash",
    "upload",
    "soak",
)


@dataclass(frozen=True)
class Result:
    """The result of a measurement: its ratio to the baseline, or what `counted` says; the aim in words; the figures."""

    name: str
    ratio: float
    aim: str
    figures: dict[str, Any] = field(default_factory=dict)
    counted: str = "times the baseline"


def run(name: str, json_file: Path | None = None, **options: Any) -> Result:
    """Runs one measurement, prints its table, and writes it as JSON if asked. Raises Refusal if it cannot be run."""
    try:
        module = importlib.import_module(f".{name.replace('-', '_')}", __package__)
    except (ImportError, RuntimeError) as error:  # Starlette's client raises the latter
        raise Refusal("This measurement needs the packages of the tests: run “make test” first.") from error
    result: Result = module.measure(**options)
    width = max(len(k) for k in result.figures)
    print(f"{result.name}: {result.ratio:.2f} {result.counted}   (aim: {result.aim})")
    for key, value in result.figures.items():
        print(f"  {key:<{width}}  {value:.2f}" if isinstance(value, float) else f"  {key:<{width}}  {value}")
    if json_file is not None:
        try:
            json_file.write_text(json.dumps(result.__dict__, indent=2) + "\n")
        except OSError as error:
            raise Refusal(f"{json_file} cannot be written: {error.strerror}. Choose another place.") from error
    return result
