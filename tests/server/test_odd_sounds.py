"""Sound files as people have them: one channel or six, slow or fast, with a cover, silent, broken; each is heard where
it is put, or gets a sentence."""

from fractions import Fraction

import av
import numpy as np
import pytest

from ..views import whole
from .api import edit, sound, upload

SECONDS, AT = 1.5, 0.5


def write(path, codec: str, rate: int, layout: str = "stereo", format: str = "s16", loud: float = 0.5, cover=False):
    """A file with a burst of 400 Hz, half a second long, from half a second on."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=rate, layout=layout, format=format)
        picture = out.add_stream("png", rate=1, width=64, height=64, pix_fmt="rgb24") if cover else None
        if picture is not None:
            picture.disposition = av.stream.Disposition.attached_pic
        count = len(av.AudioLayout(layout).channels)
        t = np.arange(round(SECONDS * rate)) / rate
        tone = (loud * np.sin(2 * np.pi * 400 * t) * ((t > AT) & (t < AT + 0.5))).astype(np.float32)
        if picture is not None:
            frame = av.VideoFrame.from_ndarray(np.full((64, 64, 3), 200, np.uint8), format="rgb24")
            frame.pts, frame.time_base = 0, Fraction(1)
            out.mux([*picture.encode(frame), *picture.encode()])
        resampler = av.AudioResampler(format=stream.format.name, layout=layout, rate=rate)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(np.tile(tone, (count, 1))), "fltp", layout)
        frame.rate, frame.pts, frame.time_base = rate, 0, Fraction(1, rate)
        fifo = av.AudioFifo()
        fifo.write(resampler.resample(frame)[0])
        size = stream.codec_context.frame_size or 1024
        while block := fifo.read(size, partial=True):
            out.mux(stream.encode(block))
        out.mux(stream.encode())
    return path


ODD = {
    "one channel.wav": ("pcm_s16le", 44_100, "mono", "s16"),
    "six channels.wav": ("pcm_s16le", 48_000, "5.1", "s16"),
    "8 kHz.wav": ("pcm_s16le", 8_000, "mono", "s16"),
    "192 kHz.wav": ("pcm_s32le", 192_000, "stereo", "s32"),
    "floats.wav": ("pcm_f32le", 96_000, "stereo", "flt"),
    "plain.mp3": ("libmp3lame", 44_100, "stereo", "fltp"),
    "plain.m4a": ("aac", 44_100, "stereo", "fltp"),
    "plain.flac": ("flac", 44_100, "stereo", "s16"),
    "plain.ogg": ("libopus", 48_000, "stereo", "flt"),
}


def put(client, project, path) -> tuple[dict, np.ndarray]:
    """Imports a file and puts it on the first frame, nothing else being heard: the view, and what is heard."""
    id_ = project["project"]["id"]
    done = upload(client, id_, path)
    assert done["state"] == "done", done
    view = whole(client.get(f"/api/projects/{id_}").json())
    (asset,) = (a for a in view["assets"].values() if a["kind"] == "sound")
    view = edit(client, view, kind="change mix", changes={"loudness": None, "footage": {"muted": True}})
    shelved = {"kind": "shelved", "asset": asset["id"], "stored": asset["file"]}
    return edit(client, view, kind="add cue", sound=shelved), sound(client, id_)


@pytest.mark.parametrize("name", ODD)
def test_each_is_heard_where_it_is_put(client, project, tmp_path, name):
    view, heard = put(client, project, write(tmp_path / name, *ODD[name]))
    seconds = next(iter(view["assets"].values()))["seconds"]
    assert seconds == pytest.approx(SECONDS, abs=0.06)
    loud = np.abs(heard).max(1) > 0.1
    assert np.argmax(loud) / 48_000 == pytest.approx(AT, abs=0.004)
    # Long enough to count its waves.
    part = heard[int(0.55 * 48_000) : int(0.75 * 48_000), 0]
    assert (np.diff(np.signbit(part)) != 0).sum() / 0.2 / 2 == pytest.approx(400, rel=0.03)


def test_a_cover_does_not_make_a_song_a_video(client, project, tmp_path):
    view, heard = put(client, project, write(tmp_path / "song.mp3", "libmp3lame", 44_100, format="fltp", cover=True))
    assert [s["name"] for s in view["shots"].values()] == ["clip"]
    assert np.abs(heard).max() > 0.3


def test_a_silent_one_stays_silent_and_has_no_beats(client, project, tmp_path):
    view, heard = put(client, project, write(tmp_path / "nothing.wav", "pcm_s16le", 48_000, loud=0))
    assert not heard.any()
    id_ = view["project"]["id"]
    answer = client.get(f"/api/projects/{id_}/cues/{view['project']['cues'][0]['id']}/beats")
    assert answer.status_code == 400
    assert "No beats can be found in nothing" in answer.json()["message"]
    view = edit(client, view, kind="change mix", changes={"loudness": -14.0})
    told = client.get(f"/api/projects/{id_}/loudness").json()
    assert (told["loudness"], told["peak"], told["gain"]) == (None, None, 0)


@pytest.mark.parametrize("keep", [0, 30, 700])
def test_a_broken_one_gets_a_sentence(client, project, tmp_path, keep):
    good = write(tmp_path / "good.mp3", "libmp3lame", 44_100, format="fltp").read_bytes()
    path = tmp_path / "half.mp3"
    path.write_bytes(good[:keep] if keep < 100 else b"\x00" * 4000)
    done = upload(client, project["project"]["id"], path)
    assert done["state"] != "done"
    assert done["message"].endswith(".")


def test_one_that_was_copied_by_half_is_heard_as_far_as_it_goes(client, project, tmp_path):
    path = write(tmp_path / "whole.wav", "pcm_s16le", 48_000)
    half = tmp_path / "half.wav"
    half.write_bytes(path.read_bytes()[: path.stat().st_size * 2 // 3])
    view, heard = put(client, project, half)
    assert next(iter(view["assets"].values()))["seconds"] == pytest.approx(1.0, abs=0.05)
    assert np.abs(heard[int(0.6 * 48_000) : int(0.7 * 48_000)]).max() == pytest.approx(0.5, abs=0.05)


def test_waves_of_sounds_and_hits_are_told(client, project, tmp_path):
    view, _ = put(client, project, write(tmp_path / "bell.wav", "pcm_s16le", 48_000))
    url = f"/api/projects/{view['project']['id']}"
    cue = view["project"]["cues"][0]["id"]
    wave = client.get(f"{url}/wave", params={"cue": cue, "first": 0, "past": 1.5, "points": 30}).json()
    assert len(wave) == 30
    assert max(wave[:9]) < 0.01
    assert wave[15] == pytest.approx(0.5, abs=0.02)
    shot = next(iter(view["shots"]))
    assert max(client.get(f"{url}/wave", params={"shot": shot}).json()) > 0.2
    assert client.get(f"{url}/wave", params={"cue": "f" * 16}).status_code == 404
    hits = client.get("/api/hits").json()
    assert len(hits) == 15
    assert all(0.1 < max(h) <= 1 for h in hits.values())


def test_a_second_that_was_changed_meanwhile_is_not_told(client, project):
    url = f"/api/projects/{project['project']['id']}/sound"
    (key,) = client.get(url).json()["blocks"]
    assert client.get(f"{url}/0", params={"key": key}).status_code == 200
    assert client.get(f"{url}/1", params={"key": key}).status_code == 404
    edit(client, project, kind="change mix", changes={"footage": {"gain": -3.0}, "loudness": None})
    assert client.get(f"{url}/0", params={"key": key}).status_code == 404
    (after,) = client.get(url).json()["blocks"]
    assert len(client.get(f"{url}/0", params={"key": after}).content) == 4 * (75 + 2 * 24 * 1600)


def test_beats_are_found_as_music_is_imported(client, project, tmp_path):
    from tools.bench.tunes import piece

    path = tmp_path / "music.wav"
    samples, known = piece(120, 12.0)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("pcm_s16le", rate=48_000, layout="stereo")
        block = np.ascontiguousarray((samples.T.reshape(1, -1) * 32767).astype(np.int16))
        frame = av.AudioFrame.from_ndarray(block, "s16", "stereo")
        frame.rate, frame.pts, frame.time_base = 48_000, 0, Fraction(1, 48_000)
        out.mux([*stream.encode(frame), *stream.encode()])
    view, _ = put(client, project, path)
    (cue,) = view["project"]["cues"]
    assert cue["part"] == "bed"
    place = view["cue_places"][cue["id"]]
    assert place["bpm"] == pytest.approx(120, abs=1)
    assert [b["frame"] / 30 for b in place["beats"]] == pytest.approx(known[: len(place["beats"])], abs=0.02)
    found = client.get(f"/api/projects/{view['project']['id']}/cues/{cue['id']}/beats").json()
    moved = edit(client, view, kind="change cue", cue=cue["id"], changes={"counted": {**found, "first": 1}})
    assert moved["cue_places"][cue["id"]]["beats"][1]["bar"]
