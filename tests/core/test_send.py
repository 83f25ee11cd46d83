"""Exports: sound, ranges, tags, and that no half file is left."""

import hashlib
import os
import threading
import wave
from concurrent.futures import ThreadPoolExecutor
from itertools import chain, pairwise
from pathlib import Path

import av
import numpy as np
import pytest

from nervykite.core.change.edits import AddGround, ChangeGround
from nervykite.core.common.errors import Cancelled, Refusal
from nervykite.core.draw.send.export import CHUNK, Output, chunks_in_order, export
from nervykite.core.draw.send.foretold import foretold
from nervykite.core.draw.send.sending import Sending
from nervykite.core.draw.send.writer import writer_for
from nervykite.core.draw.send.writers.mp4 import Mp4
from nervykite.core.draw.sound.master import Master
from nervykite.core.draw.sound.mix import mix
from nervykite.core.draw.sound.plan import plan_of
from nervykite.core.draw.sound.taken import Sounds
from nervykite.core.draw.sound.wav import WavWriter, read_wav
from nervykite.core.piece.model import Document, Mix, Project
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.library import Library
from nervykite.studio import Studio

from ..media import decode_luma, number_of, sound_of


def mastered(sound=None):
    """What is heard of a piece whose files all have one sound."""
    return lambda timeline: Master(plan_of(timeline), Sounds(lambda file: sound))


silent = mastered()


def test_every_frame_once_in_order_with_tags(reel, tmp_path):
    made = reel(frames=33)
    out = tmp_path / "piece.mp4"
    export(made.document(), made.library, silent, [Output(out, Mp4(quality="fine"))])
    assert [number_of(f) for f in decode_luma(out)] == list(range(33))
    with av.open(str(out)) as file:
        frame = next(file.decode(video=0))
        assert (int(frame.colorspace), int(frame.color_range), int(frame.color_trc)) == (1, 1, 1)
        assert file.streams.video[0].average_rate == 30
        assert not file.streams.audio


def test_readers_of_footage_are_given_back(reel, tmp_path):
    """However a sending ends, files and threads are as many afterwards as before."""
    made = reel(frames=33)

    def stop(share: float) -> None:
        raise Cancelled

    def send() -> None:
        outputs = [Output(tmp_path / "piece.mp4", Mp4())]
        export(made.document(), made.library, silent, outputs)
        foretold(made.document(), made.library, tmp_path, Mp4(), Sending())
        with pytest.raises(Cancelled):
            export(made.document(), made.library, silent, outputs, stop)

    def held() -> int:
        """How many times its files are open or mapped."""
        opened = [os.readlink(f"/proc/self/fd/{n}") for n in os.listdir("/proc/self/fd") if _open(n)]
        mapped = Path("/proc/self/maps").read_text().splitlines()
        return sum(str(tmp_path) in path for path in (*opened, *mapped))

    def threads() -> int:
        return len(os.listdir("/proc/self/task"))

    send()
    before, many = held(), threads()
    for _ in range(4):
        send()
    # Readers that nobody closes are kept from the collector as well.
    assert held() == before
    assert threads() < many + 4


def test_of_many_films_those_not_asked_for_are_closed(reel, tmp_path):
    shot = reel(frames=3).shot
    library = Library(lambda _file: tmp_path / "clip.mp4")
    for n in range(30):
        library.exact(shot.model_copy(update={"id": f"{n % 15:016x}"}), 1)
        assert _times_open(tmp_path / "clip.mp4") <= 8
    library.close()
    assert _times_open(tmp_path / "clip.mp4") == 0


def _times_open(path: Path) -> int:
    opened = [os.readlink(f"/proc/self/fd/{n}") for n in os.listdir("/proc/self/fd") if _open(n)]
    return opened.count(str(path))


def _open(number: str) -> bool:
    return os.path.islink(f"/proc/self/fd/{number}")


def test_colours_pass_through(reel, tmp_path):
    """An export without edits changes no patch by more than the codec does."""
    made = reel(size=(192, 96), frames=8, colour=(1, 1, 1, 1))
    out = tmp_path / "piece.mp4"
    export(made.document(), made.library, silent, [Output(out, Mp4(quality="fine"))])
    source, sent = decode_luma(made.files["file"]), decode_luma(out)
    for a, b in zip(source, sent, strict=True):
        assert abs(a[60:, :].mean() - b[60:, :].mean()) < 0.5


def test_a_range_by_several_at_once(reel, tmp_path):
    made = reel(frames=40)
    out = tmp_path / "piece.mp4"
    export(made.document(), made.library, silent, [Output(out, Mp4(), Sending(span=(7, 31)))], workers=3)
    assert [number_of(f) for f in decode_luma(out)] == list(range(7, 31))


@pytest.mark.parametrize("span", [(5, 5), (-1, 4), (3, 99)])
def test_bad_range_gets_a_sentence(reel, tmp_path, span):
    made = reel()
    with pytest.raises(Refusal, match="which has frames 0 to 23"):
        export(made.document(), made.library, silent, [Output(tmp_path / "x.mp4", Mp4(), Sending(span=span))])
    assert list(tmp_path.glob("*x.mp4*")) == []


def test_nothing_to_send(tmp_path):
    with pytest.raises(Refusal, match="Import a shot first"):
        export(Document(project=Project(name="Empty")), lambda: None, silent, [Output(tmp_path / "x.mp4", Mp4())])


def test_cancel_leaves_what_was_there(reel, tmp_path):
    made = reel(frames=60)
    out = tmp_path / "piece.mp4"
    out.write_text("the version before")

    def stop(share):
        if share > 0.4:
            raise Cancelled

    with pytest.raises(Cancelled):
        export(made.document(), made.library, silent, [Output(out, Mp4())], progress=stop)
    assert out.read_text() == "the version before"
    assert list(tmp_path.glob(".*part")) == []


def test_what_is_sent_together_is_what_is_sent_alone_and_read_once(reel, tmp_path):
    made = reel(frames=20, sound=True)
    document = made.document()
    wanted = {
        "piece.mp4": Sending(),
        "small.mov": Sending(size=(80, 60)),
        "ground.zip": Sending(what="ground"),
        "slow.zip": Sending(rate="15"),
        "one.png": Sending(span=(7, 20)),
    }
    opened = []

    def library():
        opened.append(made.library())
        return opened[-1]

    for folder in ("alone", "together"):
        (tmp_path / folder).mkdir()
    for name, sending in wanted.items():
        export(document, library, silent, [Output(tmp_path / "alone" / name, writer_for(name), sending)])
    alone, shares = len(opened), []
    outputs = [Output(tmp_path / "together" / name, writer_for(name), sending) for name, sending in wanted.items()]
    export(document, library, silent, outputs, progress=shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1
    assert (alone, len(opened) - alone) == (10, 6)  # two for each; the first three show the same times
    for name in wanted:
        assert (tmp_path / "together" / name).read_bytes() == (tmp_path / "alone" / name).read_bytes(), name


def test_one_of_several_that_cannot_be_written_leaves_none(reel, tmp_path):
    made = reel()
    outputs = [Output(tmp_path / "piece.mp4", Mp4()), Output(tmp_path / "small.mp4", Mp4(under=0.001))]
    with pytest.raises(Refusal, match="is too little"):
        export(made.document(), made.library, silent, outputs)
    assert sorted(p.name for p in tmp_path.glob("*small*")) == []
    assert sorted(p.name for p in tmp_path.glob("*piece*")) == []


def test_chunks_come_in_order_and_not_too_far_ahead():
    live, most, lock = [0], [0], threading.Lock()

    def render(time):
        with lock:
            live[0] += 1
            most[0] = max(most[0], live[0])
        return time

    with ThreadPoolExecutor(4) as pool:
        got = []
        for chunk in chunks_in_order(render, range(3, 64), CHUNK, pool, ahead=3):
            got.append(chunk)
            with lock:
                live[0] -= len(chunk)
    assert [c[0] for c in got] == list(range(3, 64, CHUNK))
    assert list(chain(*got)) == list(range(3, 64))
    assert most[0] <= 4 * CHUNK


def test_sound_follows_the_ground(reel, tmp_path):
    made = reel(frames=30, sound=True)
    shot = made.shot.model_copy(update={"has_sound": True, "sound_file": "sound"})
    sound = sound_of(made.files["file"])
    document = made.document().model_copy(update={"shots": {shot.id: shot}})
    document = AddGround(shot=shot.id).apply(document)
    document = ChangeGround(item=document.project.ground[0].id, first=15).apply(document)
    track = mix(plan_of(Timeline(document)), lambda file: sound)
    assert track.shape == (2, 45 * 1600)
    # The second item's sound begins at its own beginning: the same samples as the shot's.
    assert np.abs(track[:, 24000 + 2000 : 24000 + 20000] - sound[:, 2000:20000]).max() < 1e-6
    assert np.abs(track[:, 1000:10000] - sound[:, 25000:34000]).max() < 1e-6
    out = tmp_path / "piece.mp4"
    document = document.model_copy(update={"project": document.project.model_copy(update={"mix": Mix(loudness=None)})})
    export(document, made.library, mastered(sound), [Output(out, Mp4())])
    back = sound_of(out)
    assert np.abs(back[0, 5000:20000]).max() == pytest.approx(0.4, abs=0.06)
    with av.open(str(out)) as file:
        video, audio = file.streams.video[0], file.streams.audio[0]
        assert abs(video.duration * video.time_base - audio.duration * audio.time_base) < 0.05


def test_wav_round_trip(tmp_path):
    sound = np.random.default_rng(2).uniform(-1, 1, (2, 1000)).astype(np.float32)
    studio = Studio(tmp_path)
    with studio.files.incoming() as out:
        wav = WavWriter(out)
        for first in range(0, 1000, 300):
            wav.write(sound[:, first : first + 300])
        assert wav.close() == 1000
        kept = studio.files.path(studio.files.keep(out))
    assert hashlib.sha256(kept.read_bytes()).hexdigest() == kept.name
    assert np.abs(read_wav(kept) / 32767 - sound).max() < 1e-4
    with wave.open(str(kept)) as read:
        assert (read.getnchannels(), read.getframerate(), read.getnframes()) == (2, 48000, 1000)
    studio.close()


def test_sound_is_the_same_in_parts(reel):
    made = reel(frames=30, sound=True)
    shot = made.shot.model_copy(update={"has_sound": True, "sound_file": "sound"})
    document = made.document().model_copy(update={"shots": {shot.id: shot}})
    document = AddGround(shot=shot.id).apply(document)
    plan, sound = plan_of(Timeline(document)), sound_of(made.files["file"])
    whole = mix(plan, lambda file: sound)
    edges = [0, 1, 100, 47_990, 48_100, 60_000, whole.shape[1]]
    parts = [mix(plan, lambda file: sound, a, b) for a, b in pairwise(edges)]
    assert np.array_equal(np.concatenate(parts, 1), whole)
    assert np.abs(whole[:, [0, 47_999, 48_000]]).max() == 0  # it comes and goes without a click
