"""Copies with ids of their own."""

from collections.abc import Mapping
from typing import TypeVar

from ...piece.model import Cue, Document, GroundItem, Hold, Layer, Source, Tied
from ...piece.model.base import new_id
from ...piece.motion.channels import worn_by

Owner = TypeVar("Owner", Layer, GroundItem)


def renewed(owner: Owner) -> Owner:
    """A layer or ground item whose keys, finishes and behaviours have new ids; keys of their settings go with them."""
    ids = {worn.id: new_id() for worn in worn_by(owner)}

    def channel(name: str) -> str:
        head, dot, setting = name.partition(".")
        return f"{ids.get(head, head)}{dot}{setting}"

    finishes = [f.model_copy(update={"id": ids[f.id]}) for f in owner.finishes]
    behaviours = [b.model_copy(update={"id": ids[b.id]}) for b in owner.behaviours]
    keys = [k.model_copy(update={"id": new_id(), "channel": channel(k.channel)}) for k in owner.keys]
    return owner.model_copy(update={"keys": keys, "finishes": finishes, "behaviours": behaviours})


def with_ties(owner: Owner, fresh: Mapping[str, str]) -> Owner:
    """The same, its keys tied to other moments and ground items than they were, by their ids."""
    if not any(k.to in fresh for k in owner.keys):
        return owner
    keys = [k.model_copy(update={"to": fresh.get(k.to or "", k.to)}) for k in owner.keys]
    return owner.model_copy(update={"keys": keys})


def with_ids(source: Source, fresh: Mapping[str, str]) -> Source:
    """A source that refers to others than it did, by their ids."""
    settings = {k: fresh.get(v, v) if isinstance(v, str) else v for k, v in source.model_dump().items()}
    return type(source).family.parse(settings)


def hold_again(hold: Hold, **changes: object) -> Hold:
    """A hold with an id of its own, and so its pieces."""
    pieces = [p.model_copy(update={"id": new_id()}) for p in hold.matte.pieces]
    matte = hold.matte.model_copy(update={"pieces": pieces})
    return hold.model_copy(update={"id": new_id(), "matte": matte, **changes})


def _cue_again(cue: Cue, fresh: Mapping[str, str]) -> Cue:
    """A cue with an id of its own, tied to others than it was, and made of others, by their ids."""
    settings = {k: fresh.get(v, v) if isinstance(v, str) else v for k, v in cue.sound.model_dump().items()}
    tie = cue.tie.model_copy(
        update={"layer": cue.tie.layer and fresh[cue.tie.layer], "item": cue.tie.item and fresh[cue.tie.item]}
    )
    return cue.model_copy(update={"id": new_id(), "sound": type(cue.sound).family.parse(settings), "tie": tie})


def copied(document: Document, name: str) -> Document:
    """The document as a project of its own, under another name. Shots are shared."""
    project = document.project
    moments = {k: [m.model_copy(update={"id": new_id()}) for m in s.moments] for k, s in document.shots.items()}
    shots = {k: s.model_copy(update={"moments": moments[k]}) for k, s in document.shots.items()}
    holds = {k: hold_again(h) for k, h in document.holds.items()}
    assets = [a.model_copy(update={"id": new_id()}) for a in document.assets.values()]
    fresh = {i.id: new_id() for i in project.ground} | {x.id: new_id() for x in project.layers}
    fresh |= {k: h.id for k, h in holds.items()} | {k: new_id() for k in document.tracks}
    fresh |= {old: new.id for old, new in zip(document.assets, assets, strict=True)}
    fresh |= {a.id: b.id for k, s in document.shots.items() for a, b in zip(s.moments, moments[k], strict=True)}

    def tied(tie: Tied | None) -> Tied | None:
        return tie and tie.model_copy(update={"item": tie.item and fresh[tie.item]})

    ground = [
        with_ties(renewed(i), fresh).model_copy(
            update={
                "id": fresh[i.id],
                "source": with_ids(i.source, fresh),
                "steady": i.steady and i.steady.model_copy(update={"track": fresh[i.steady.track]}),
            }
        )
        for i in project.ground
    ]
    layers = []
    for layer in project.layers:
        changes = {
            "id": fresh[layer.id],
            "source": with_ids(layer.source, fresh),
            "over": layer.over and fresh[layer.over],
            "group": layer.group and fresh[layer.group],
            "starts": tied(layer.starts),
            "ends": tied(layer.ends),
            "pin": layer.pin and layer.pin.model_copy(update={"track": fresh[layer.pin.track]}),
        }
        layers.append(with_ties(renewed(layer), fresh).model_copy(update=changes))
    behaviours = [b.model_copy(update={"id": new_id()}) for b in project.behaviours]
    changed = {"id": new_id(), "name": name, "ground": ground, "layers": layers, "behaviours": behaviours}
    changed["cues"] = [_cue_again(c, fresh) for c in project.cues]
    copy = project.model_copy(update=changed)
    return Document(
        project=copy,
        shots=shots,
        holds={h.id: h for h in holds.values()},
        assets={a.id: a for a in assets},
        tracks={fresh[k]: t.model_copy(update={"id": fresh[k]}) for k, t in document.tracks.items()},
    )
