"""OpenTimelineIO: a piece written as its own library reads it, and timelines of others taken over, or refused."""

import json
import shutil
import zipfile
from pathlib import Path
from urllib.parse import unquote

import av
import cv2
import numpy as np
import opentimelineio as otio
import pytest

from nervykite.cli import main
from nervykite.core.change.edits import Several
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.send.sending import Sending
from nervykite.core.draw.sound.wav import read_wav
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.planes import to_bgr
from nervykite.demo.demo_project import NAME
from nervykite.studio import Studio
from nervykite.studio.collected import stretches
from nervykite.studio.timelines import read_timeline, timeline_of, write_timeline

from ..media import make_video
from ..views import whole
from .api import edit, upload, wait_for


@pytest.fixture(scope="module")
def demo(tmp_path_factory, relay):
    studio = Studio(shutil.copytree(relay, tmp_path_factory.mktemp("timelines") / "data"))
    yield studio, studio.state(studio.projects.find(NAME)).document
    studio.close()


def tables(document) -> list[tuple[str, list[int]]]:
    """What each item of the ground shows, frame by frame."""
    timeline = Timeline(document)
    return [(g.source.kind, timeline.tables[g.id].tolist()) for g in document.project.ground]


def test_the_demo_is_written_as_the_library_reads_it(demo, tmp_path):
    studio, document = demo
    out = tmp_path / "relay.otio"
    write_timeline(studio, document, out)
    assert [p.name for p in tmp_path.iterdir()] == ["relay.otio"]
    read = otio.adapters.read_from_file(str(out))
    timeline = Timeline(document)
    ground, *sky = read.video_tracks()
    assert ground.name == "Ground"
    assert ground.duration().value == timeline.length
    clips = [c for c in ground if isinstance(c, otio.schema.Clip)]
    assert len(clips) == len(document.project.ground)
    starts = [ground.range_of_child(c).start_time.value for c in clips]
    assert starts == [timeline.starts[g.id] for g in document.project.ground]
    seen = [x for x in document.project.layers if timeline.spans[x.id] is not None and not x.source.gathers]
    assert [t.name for t in sky] == [x.name for x in seen]
    for track, layer in zip(sky, seen, strict=True):
        (clip,) = (c for c in track if isinstance(c, otio.schema.Clip))
        span = timeline.spans[layer.id]
        assert track.range_of_child(clip).start_time.value == max(0, span.start)
        assert clip.duration().value == min(timeline.length, span.end) - max(0, span.start)
        assert clip.metadata["nervykite"]["layer"]["id"] == layer.id
        if layer.finishes:
            assert {e.effect_name for e in clip.effects} >= {f.kind for f in layer.finishes}
    assert len(read.audio_tracks()) == len(document.project.cues)
    markers = [m for c in clips for m in c.markers]
    assert len(markers) >= 3
    for clip in read.find_clips():
        media = clip.media_reference
        if isinstance(media, otio.schema.ExternalReference):
            assert studio.files.path(media.metadata["nervykite"]["sha256"]).as_uri() == media.target_url


def test_with_its_footage_in_it_each_file_has_its_name_and_ending(demo, tmp_path):
    studio, document = demo
    write_timeline(studio, only(document), tmp_path / "relay.otioz")
    with zipfile.ZipFile(tmp_path / "relay.otioz") as archive:
        names = {n.removeprefix("media/") for n in archive.namelist() if n.startswith("media/")}
        data = archive.read("media/Dune run.mp4")
    assert {"Dune run.mp4", "Groyne pan.mp4"} <= names
    assert all(Path(n).suffix for n in names)
    shot = next(s for s in document.shots.values() if s.name == "Dune run")
    assert data == studio.files.path(shot.file).read_bytes()


def test_collected_it_looks_and_sounds_alike_in_any_reader(demo, tmp_path):
    studio, whole_piece = demo
    # Of the demo's layers some that stand and some that move, with a sound that was made and one of the shelf.
    spans = Timeline(whole_piece).spans
    named = {x.name: x for x in whole_piece.project.layers}
    stays, moves = named["Leap 2"], named["Leap 3"]
    tied = [c for c in whole_piece.project.cues if c.tie.layer in (stays.id, moves.id)][:2]
    cues = [*tied, *(c for c in whole_piece.project.cues if c.sound.kind == "shelved")]
    assert len(cues) >= 2
    project = whole_piece.project.model_copy(update={"layers": [stays, moves], "cues": cues})
    document = whole_piece.model_copy(update={"project": project})
    out = tmp_path / "relay.otiod"
    write_timeline(studio, document, out)
    read = otio.adapters.read_from_file(str(out), "otiod")
    names = {p.name for p in (out / "media").iterdir()}
    assert {"Dune run.mp4", "Sound of the footage.wav"} <= names
    for track, layer in zip(read.video_tracks()[1:], (stays, moves), strict=True):
        span = spans[layer.id]
        parts = [c for c in track if isinstance(c, otio.schema.Clip)]
        assert track.range_of_child(parts[0]).start_time.value == span.start
        assert sum(c.duration().value for c in parts) == span.end - span.start
        solid = 0.0
        # What flies, laid over the ground, is the piece as it is seen, in each part.
        for part in parts:
            begins, lasts = (int(x.value) for x in (track.range_of_child(part).start_time, part.duration()))
            assert part.media_reference.available_range.duration.value == lasts
            frames = pictures(out / unquote(part.media_reference.target_url))
            assert len(frames) in (1, lasts)
            at = min(3, lasts - 1)
            ground, seen = (
                to_bgr(studio.renderer.render(Canvas.of(d), Evaluation(d).at(begins + at))).astype(float)
                for d in (Sending(what="ground").document(document), only(document, layer))
            )
            rgba = frames[0] if len(frames) == 1 else frames[at]
            alpha = rgba[..., 3:] / 255
            over = rgba[..., 2::-1] * alpha + ground * (1 - alpha)
            solid = max(solid, alpha.max())
            assert np.abs(over - seen).mean() < 1.5
        assert solid > 0.9
    for track, cue in zip(read.audio_tracks(), cues, strict=False):
        (clip,) = (c for c in track if isinstance(c, otio.schema.Clip))
        sound = read_wav(out / unquote(clip.media_reference.target_url))
        assert sound.shape[1] == pytest.approx(clip.duration().value / 30 * RATE, abs=2)
        assert np.abs(sound).max() > 1000
        assert track.range_of_child(clip).start_time.value <= Timeline(document).cue(cue)
    with pytest.raises(Refusal, match="there already"):
        write_timeline(studio, document, out)


def test_what_rests_for_a_while_is_a_picture_between_films():
    assert stretches([0] * 5, 30) == [(0, 5, True)]
    assert stretches([*range(4), *[4] * 30, 5, 6], 30) == [(0, 4, False), (4, 34, True), (34, 36, False)]
    assert stretches([*[0] * 30, *[1] * 29, *[2] * 29], 30) == [(0, 30, True), (30, 88, False)]


def test_collected_and_opened_again_it_is_the_same_piece(demo, client, studio, tmp_path):
    ours, whole_piece = demo
    named = {x.name: x for x in whole_piece.project.layers}
    document = only(whole_piece, named["Leap 2"])
    write_timeline(ours, document, tmp_path / "relay.otioz")
    with zipfile.ZipFile(tmp_path / "relay.otioz") as archive:
        lie = [i.file_size for i in archive.infolist() if i.filename.startswith("files/")]
        # Footage lies in it once.
        assert ours.files.path(next(iter(document.shots.values())).file).stat().st_size not in lie
    data = (tmp_path / "relay.otioz").read_bytes()
    answer = client.post("/api/bundles", params={"name": "relay.otioz"}, content=data)
    assert answer.status_code == 200, answer.text
    assert answer.json()["left"] == []
    again = studio.state(answer.json()["project"]).document
    assert [x.name for x in again.project.layers] == ["Leap 2"]
    assert tables(again) == tables(document)
    at = Timeline(document).spans[named["Leap 2"].id].start + 3
    for frame in (0, at):
        one, two = (
            s.renderer.render(Canvas.of(d), Evaluation(d).at(frame)) for s, d in ((ours, document), (studio, again))
        )
        for plane in ("y", "u", "v"):
            assert (getattr(one, plane) == getattr(two, plane)).all(), frame


def test_another_programs_packed_timeline_becomes_a_project(client, tmp_path):
    video = make_video(tmp_path / "runner.mp4", frames=60)
    (tmp_path / "broken.mp4").write_bytes(b"none")
    timeline = otio.schema.Timeline("Packed elsewhere")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    for path in (video, tmp_path / "broken.mp4"):
        track.append(otio.schema.Clip(path.stem, otio.schema.ExternalReference(path.as_uri()), span(6, 12, 30)))
    timeline.tracks.append(track)
    otio.adapters.write_to_file(timeline, str(tmp_path / "edit.otioz"))
    answer = client.post("/api/bundles", params={"name": "edit.otioz"}, content=(tmp_path / "edit.otioz").read_bytes())
    assert answer.status_code == 200, answer.text
    assert len(answer.json()["left"]) == 2
    assert any("broken" in sentence for sentence in answer.json()["left"])
    view = whole(client.get(f"/api/projects/{answer.json()['project']}").json())
    assert view["project"]["name"] == "Packed elsewhere"
    (item,) = view["project"]["ground"]
    assert (item["source"]["first"], item["source"]["past"]) == (6, 18)


def test_a_timeline_that_is_sent_here_does_not_say_which_files_are_read(client, tmp_path):
    video = make_video(tmp_path / "runner.mp4", frames=30)
    text = foreign(otio.schema.Clip("runner", otio.schema.ExternalReference(video.as_uri()), span(0, 10)))
    before = client.get("/api/projects").json()
    answer = client.post("/api/bundles", params={"name": "edit.otio"}, content=text.encode())
    assert answer.status_code == 400
    assert "needs runner.mp4: import that first" in answer.json()["message"]
    assert client.get("/api/projects").json() == before


def only(document, *layers):
    """A document with some of its layers alone, and no sounds of its own."""
    changes = {"layers": list(layers), "cues": []}
    return document.model_copy(update={"project": document.project.model_copy(update=changes)})


def pictures(path: Path) -> list[np.ndarray]:
    """The frames of a picture or film with alpha, uint8 RGBA."""
    if path.suffix == ".png":
        return [cv2.cvtColor(cv2.imread(str(path), cv2.IMREAD_UNCHANGED), cv2.COLOR_BGRA2RGBA)]
    with av.open(str(path)) as file:
        return [f.to_ndarray(format="rgba") for f in file.decode(video=0)]


def test_what_was_written_comes_back_frame_for_frame(demo, tmp_path):
    studio, document = demo
    text = timeline_of(studio, document).to_json_string()
    empty = document.model_copy(
        update={"project": document.project.model_copy(update={"ground": [], "layers": [], "cues": []}), "holds": {}}
    )
    read = read_timeline(empty, text, "relay.otio")
    after = Several(edits=read.edits).apply(empty)
    assert [t for _, t in tables(after)] == [t for _, t in tables(document)]
    assert [g.fade for g in after.project.ground] == [g.fade for g in document.project.ground]
    kinds = {"standstill": "standstill", "shot": "shot"}
    assert [k for k, _ in tables(after)] == [kinds.get(k, k) for k, _ in tables(document)]
    assert any("Leap 1 is left out" in s for s in read.left)


def test_the_command_line_writes_one_and_makes_a_project_of_it(demo, tmp_path, capsys):
    studio, document = demo
    out = tmp_path / "relay.otio"
    assert main(["export", NAME, "--data", str(studio.folder), "--to", str(out)]) == 0
    assert main(["import", str(out), "--data", str(tmp_path / "other"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out.splitlines()[-1])
    other = Studio(tmp_path / "other")
    again = other.state(told["project"]).document
    assert [len(t) for _, t in tables(again)] == [len(t) for _, t in tables(document)]
    assert len(again.shots) == len({g.source.footage(document) for g in document.project.ground} - {None})
    other.close()


def foreign(*children, extra: bool = False) -> str:
    """A timeline as another program would have written it."""
    timeline = otio.schema.Timeline("From elsewhere")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    track.extend(children)
    timeline.tracks.append(track)
    if extra:
        more = otio.schema.Track("Titles", kind=otio.schema.TrackKind.Video)
        more.append(otio.schema.Clip("A title", source_range=span(0, 10)))
        timeline.tracks.append(more)
    return timeline.to_json_string()


def span(first: float, lasts: float, rate: float = 25) -> otio.opentime.TimeRange:
    return otio.opentime.TimeRange(otio.opentime.RationalTime(first, rate), otio.opentime.RationalTime(lasts, rate))


def clip(name: str, first: float, lasts: float, **more) -> otio.schema.Clip:
    return otio.schema.Clip(
        name, otio.schema.ExternalReference(f"file:///elsewhere/{name}.mp4"), span(first, lasts), **more
    )


@pytest.fixture
def project(client, tmp_path):
    id_ = client.post("/api/projects", json={"name": "Taken over"}).json()["project"]["id"]
    upload(client, id_, make_video(tmp_path / "runner.mp4", frames=60))
    return whole(client.get(f"/api/projects/{id_}").json())


def test_a_timeline_from_elsewhere_is_taken_over_as_far_as_it_goes(client, project):
    marked = clip("runner", 10, 20)
    marked.markers.append(otio.schema.Marker("Jump", span(20, 0)))
    marked.effects.append(otio.schema.Effect("Glow", "glow"))
    still = clip("runner", 30, 15)
    still.effects.append(otio.schema.FreezeFrame())
    fast = clip("runner", 0, 10)
    fast.effects.append(otio.schema.LinearTimeWarp(time_scalar=2))
    fade = otio.schema.Transition(
        "Over", otio.schema.TransitionTypes.SMPTE_Dissolve, otio.opentime.RationalTime(0, 25),
        otio.opentime.RationalTime(5, 25),
    )  # fmt: skip
    text = foreign(
        marked, otio.schema.Gap(duration=otio.opentime.RationalTime(5, 25)), still, fade, fast, clip("unknown", 0, 9),
        extra=True,
    )  # fmt: skip
    url = f"/api/projects/{project['project']['id']}"
    told = client.post(f"{url}/timeline", json={"name": "edit.otio", "text": text})
    assert told.status_code == 200, told.text
    left = told.json()["left"]
    for said in ("The effect glow of runner", "2 times its speed", "needs unknown.mp4: import that", "track Titles"):
        assert any(said in sentence for sentence in left), (said, left)
    before = len(project["project"]["ground"])
    view = edit(client, project, kind="several", edits=told.json()["edits"])
    laid = view["project"]["ground"][before:]
    assert [g["source"]["kind"] for g in laid] == ["shot", "colour", "standstill", "shot"]
    # Frames at 25 a second are those at 30 of the same time.
    assert (laid[0]["source"]["first"], laid[0]["source"]["past"]) == (12, 36)
    assert (laid[2]["source"]["frame"], laid[2]["source"]["lasting"]) == (36, 18)
    assert laid[3]["fade"] == 6
    (shot,) = view["shots"].values()
    assert [(m["frame"], m["name"]) for m in shot["moments"]] == [(24, "Jump")]


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("not json", "is not an OpenTimelineIO file"),
        ("{}", "is not an OpenTimelineIO file"),
        (otio.schema.Track("V1").to_json_string(), "holds no timeline, but a Track"),
        (otio.schema.Timeline("Empty").to_json_string(), "has no picture"),
        (foreign(clip("nobody", 0, 10)), "Nothing of edit.otio can be taken over. nobody needs nobody.mp4"),
    ],
)
def test_what_cannot_be_taken_over_is_refused(demo, text, sentence):
    _, document = demo
    with pytest.raises(Refusal) as refused:
        read_timeline(document, text, "edit.otio")
    assert sentence in str(refused.value)


def test_the_page_gets_one_to_keep(client, project):
    answer = client.get(f"/api/projects/{project['project']['id']}/timeline.otio")
    assert "Taken%20over.otio" in answer.headers["content-disposition"]
    read = otio.adapters.read_from_string(answer.text, "otio_json")
    assert read.video_tracks()[0].duration().value == 60


def test_one_with_its_footage_is_written_as_a_job(client, project, studio):
    job = wait_for(client, client.post(f"/api/projects/{project['project']['id']}/timeline.otioz").json())
    assert job["state"] == "done"
    assert job["title"].startswith("Timeline of")
    with zipfile.ZipFile(studio.exports / job["result"]["file"]) as archive:
        assert "content.otio" in archive.namelist()
        assert [n for n in archive.namelist() if n.endswith(".mp4")]
    assert client.get(f"/api/jobs/{job['id']}/file").content[:2] == b"PK"
