"""Measurements of speed and quality, as ratios to a baseline in the same run: `nervykite bench NAME`."""

import importlib
import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

NAMES = ("picture", "export", "seek", "edit", "footage", "matte", "carry")


@dataclass(frozen=True)
class Result:
    """What a measurement found: its ratio to the baseline, the aim in words, and the single figures."""

    name: str
    ratio: float
    aim: str
    figures: dict[str, Any] = field(default_factory=dict)


def run(name: str, json_file: Path | None = None, **options: Any) -> Result:
    """Runs one measurement, prints its table, and writes it as JSON if asked."""
    result: Result = importlib.import_module(f".{name}", __package__).measure(**options)
    width = max(len(k) for k in result.figures)
    print(f"{result.name}: {result.ratio:.2f} times the baseline   (aim: {result.aim})")
    for key, value in result.figures.items():
        print(f"  {key:<{width}}  {value:.2f}" if isinstance(value, float) else f"  {key:<{width}}  {value}")
    if json_file is not None:
        json_file.write_text(json.dumps(result.__dict__, indent=2) + "\n")
    return result
