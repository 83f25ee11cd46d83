"""The words of an order to send, read."""

import json
import sys
from collections.abc import Callable, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

from ..core.common.errors import Refusal
from ..core.draw.send.sending import Sending
from ..core.draw.send.writer import Writer, writer_for
from ..core.piece.model import Document


def asked_for(
    document: Document,
    to: Path,
    settings: Sequence[str] = (),
    span: tuple[int, int] | None = None,
    still: int | None = None,
    layers: Sequence[str] | None = None,
    ground: bool = False,
    over: str = "nothing",
    size: tuple[int, int] | None = None,
    rate: str | None = None,
) -> tuple[Writer, Sending]:
    """The format of a file by its ending, and what is sent to it. Raises Refusal, with a sentence.

    settings: of the format, "key=value"; layers: ids or names; still: a frame alone
    """
    given: dict[str, Any] = {}
    for one in settings:
        key, found, value = one.partition("=")
        if not found:
            raise Refusal(f"“{one}” is no setting. Write KEY=VALUE, such as quality=fine.")
        given[key.strip()] = value.strip()
    writer = writer_for(to.name, given)
    if still is not None:
        span = still, still + 1
    try:
        speed = None if rate is None else Fraction(rate)
        sending = Sending.model_validate({
            "what": "layers" if layers else "ground" if ground else "piece",
            "layers": [_layer(document, name) for name in layers or ()],
            "over": over, "span": span, "size": size, "rate": speed,
        })  # fmt: skip
    except (ValueError, ZeroDivisionError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal(f"That cannot be sent so: {_first(error)}") from error
    return writer, sending


def progress_shown(as_json: bool) -> Callable[[float], None]:
    """The display of how far it is: a number that counts up, or lines of JSON."""

    def show(share: float) -> None:
        if as_json:
            print(json.dumps({"share": round(share, 4)}), flush=True)
        else:
            print(f"\r{share:5.0%}", end="", file=sys.stderr, flush=True)

    return show


def _layer(document: Document, name: str) -> str:
    layers = document.project.layers
    found = [x.id for x in layers if x.id == name] or [x.id for x in layers if x.name == name]
    if not found:
        known = ", ".join(sorted({x.name for x in layers})) or "none"
        raise Refusal(f"There is no layer “{name}”. There are: {known}.")
    if len(found) > 1:
        raise Refusal(f"{len(found)} layers are called “{name}”. Name it by its id: {', '.join(found)}.")
    return found[0]


def _first(error: Exception) -> str:
    errors = getattr(error, "errors", None)
    if errors is None:
        return f"{error}."
    one = errors()[0]
    return f"{'.'.join(str(p) for p in one['loc'])}: {one['msg']}."
