"""What the server tells of a project, put together as the page puts it together."""

from typing import Any

PARTS = ("ground", "layers", "shots", "holds", "stops", "assets", "tracks", "items", "places", "item_keys")


def whole(answer: dict[str, Any], before: dict[str, Any] | None = None) -> dict[str, Any]:
    """A project's view, whole: of an answer that says all, or of the view before it and what has changed since.

    Layers and ground are lists within the project, in their order; holds know the frames that their mattes travelled
    to; `strips` and `takes` are by hold, `items` a list.
    """
    if answer["base"] is not None:
        assert before is not None
        assert answer["base"] == before["revision"]
    told: dict[str, Any] = dict(before["told"]) if answer["base"] is not None and before else {}
    for name in PARTS:
        kept = {k: v for k, v in told.get(name, {}).items() if k not in answer["gone"].get(name, ())}
        told[name] = kept | answer[name]
    for name in ("ground_order", "layer_order"):
        if answer[name] is not None:
            told[name] = answer[name]
    holds, strips = {}, {}
    for id_, known in told["holds"].items():
        hold = dict(known["hold"])
        if hold["travel"] is not None:
            own = sorted((s for k, s in told["stops"].items() if k.startswith(id_)), key=lambda s: s["frame"])
            hold["travel"] = hold["travel"] | {"stops": own}
            strips[id_] = {str(s["frame"]): s["state"] for s in own} | {str(hold["frame"]): "fixed"}
        holds[id_] = hold
    return {
        **{k: answer[k] for k in ("revision", "undo", "redo", "length", "sound", "stale", "base")},
        "project": answer["project"]
        | {
            "ground": [told["ground"][i] for i in told["ground_order"]],
            "layers": [told["layers"][i] for i in told["layer_order"]],
        },
        "shots": told["shots"],
        "assets": told["assets"],
        "tracks": told["tracks"],
        "holds": holds,
        "strips": strips,
        "takes": {k: h["take"] for k, h in told["holds"].items()},
        "items": [told["items"][i] for i in told["ground_order"]],
        "layers": told["places"],
        "item_keys": told["item_keys"],
        "cue_places": answer["cue_places"],
        "told": told,
    }
