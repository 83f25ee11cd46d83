"""A data folder at work: the store and the core put together, for the server and the command line alike."""

import logging
import re
import shutil
import sqlite3
from collections.abc import Callable, Container
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cv2
import numpy as np
import platformdirs

from ..core.change.edits import Edit
from ..core.change.edits.copying import copied
from ..core.common.apart import Apart
from ..core.common.errors import Refusal
from ..core.common.kept import Kept
from ..core.craft.lettering.faces import add_place, remove_place
from ..core.craft.synthesis.sample_rate import RATE
from ..core.draw.picture.bands import Bands
from ..core.draw.picture.evaluate import Evaluation
from ..core.draw.picture.render import Renderer
from ..core.draw.send.export import Output, export
from ..core.draw.send.foretold import Foretold, foretold
from ..core.draw.send.sending import Sending
from ..core.draw.send.writer import Writer
from ..core.draw.sound.beat_tracking import beats_of, counted
from ..core.draw.sound.faults import Fault
from ..core.draw.sound.master import Master, blocks_kept
from ..core.draw.sound.plan import plan_of
from ..core.draw.sound.taken import Sounds
from ..core.draw.sound.wav import read_wav
from ..core.piece.model import Counted, Document, Shot
from ..core.piece.timeline.timeline import Timeline
from ..core.see.carry.carry_state import Trail
from ..core.see.catch.seen import METHOD
from ..core.see.footage.library import Library
from ..core.tell.shown import laid_out
from ..store.database import Database
from ..store.files import GRACE, Files, Given
from ..store.jobs import Jobs
from ..store.kept_mattes import KeptMattes
from ..store.projects import Projects, State
from ..store.watched import Watched
from . import stored
from .cutting import Remembered
from .service_footage import ShotFilm
from .troubles import ROOM

log = logging.getLogger("nervykite")
SPARE = ROOM * 1_000_000
"""So many bytes of the disk are left free of footage."""
LISTENED = 1200
"""For so many seconds of a sound it is listened for beats."""
UNDELETE_DAYS = 7
"""For so many days a deleted project can be brought back."""


def default_folder() -> Path:
    """The platform's usual folder for a person's data."""
    return Path(platformdirs.user_data_dir("nervykite"))


class Studio:
    """Everything below one data folder. Safe for several threads.

    watches: whether shots are looked through in the background as soon as they are there.
    """

    def __init__(self, folder: Path, watches: bool = True) -> None:
        self.folder, self.watches = folder, watches
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self.database = Database(folder / "nervykite.sqlite")
        except OSError as error:
            raise Refusal(f"The data folder {folder} cannot be used: {error.strerror}. Choose another.") from error
        except sqlite3.DatabaseError as error:
            if getattr(error, "sqlite_errorcode", 0) & 0xFF in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN):
                advice = "See that you may write there, or choose another folder with --data."
                raise Refusal(f"The data folder {folder} cannot be written to: {error}. {advice}") from error
            advice = "Make a copy of the folder, then bring back nervykite.sqlite from a backup."
            raise Refusal(f"The database in {folder} cannot be used: {error}. {advice}") from error
        self.files = Files(folder / "files", self.database)
        add_place(self.files.path)
        self.projects = Projects(self.database, self._check)
        self.jobs = Jobs(self.database)
        self.mattes = KeptMattes(self.database)
        self.watched = Watched(self.database, METHOD)
        self.exports = folder / "exports"
        self.exports.mkdir(exist_ok=True)
        self.library = self.open_library()
        self.pool = ThreadPoolExecutor(2, "draw")
        self.renderer = Renderer(self.library, bands=Bands(2, self.pool))
        self.remembered = Remembered()
        self.trails: Kept[Trail] = Kept(3)
        self._evaluations: Kept[tuple[State, Evaluation]] = Kept(6)
        self._laid_out: Kept[Evaluation] = Kept(6)
        self.sounds, self._blocks = Sounds(self.sound_in), blocks_kept()
        self._masters: Kept[Master] = Kept(6)
        self.apart = Apart()
        """Where strangers' files are read."""
        self.faults: Kept[Fault | None] = Kept(100)
        self._counted: Kept[Counted | None] = Kept(20)

    def recover(self) -> None:
        """Puts things right after a crash: ends broken-off jobs, removes half-written files.

        Only for the one server of a folder, before it starts to work. What nobody needs any more goes with `tidy`.
        """
        self.jobs.end_interrupted()
        self.files.sweep()
        for part in [*self.exports.glob(".*.part*"), *self.folder.glob("tmp????????.part")]:
            part.unlink(missing_ok=True)
        for left in self.folder.glob("tmp????????"):  # earlier versions worked there
            shutil.rmtree(left, ignore_errors=True)

    def tidy(self, grace: float = GRACE) -> Given:
        """Gives back the room of what nobody needs any more, not even to undo something.

        grace: how many seconds old a file has to be for that, see `Files`. Not while something is being made.
        """
        self.projects.forget_deleted(UNDELETE_DAYS)
        self.projects.forget_shots()
        given = self.files.collect(grace)
        if given.files:
            log.info("%d files that nobody needs were removed, %.1f MB", given.files, given.bytes / 1e6)
        return given

    def close(self) -> None:
        """Lets go of files and threads."""
        remove_place(self.files.path)
        self.pool.shutdown(cancel_futures=True)
        self.apart.close()
        self.library.close()
        self.database.close()

    def open_library(self) -> Library:
        """A library of this folder's footage."""
        return Library(self.files.path)

    def film(self, shot: Shot) -> ShotFilm:
        """A shot as the services look at it."""
        return ShotFilm(self.library, shot)

    def state(self, project: str) -> State:
        """A project as it is. Raises Missing."""
        return self.projects.state(project)

    def evaluation(self, state: State) -> Evaluation:
        """The evaluation of a state, remembered for the last few."""
        key = state.document.project.id, state.revision
        known = self._evaluations.peek(key)
        if known is None or known[0].document is not state.document:
            evaluation = self._laid_out.peek(key[0])
            if evaluation is None or evaluation.document is not state.document:
                before = self._evaluations.peek((key[0], state.revision - 1))
                evaluation = Evaluation(state.document, Timeline(state.document, before and before[1].timeline))
            self._evaluations[key] = known = state, evaluation
        return known[1]

    def _check(self, before: State | None, after: Document) -> None:
        """Lays a document out before it is stored, so that none is kept that could not be shown.

        before: what it was made from by an edit; None if it is new. Raises Refusal.
        """
        if before is not None:
            for picture in stored.wanted(before.document, after):
                stored.check(self.files.path(picture.file), picture)
        try:
            evaluation = laid_out(after, self.evaluation(before) if before else None)
        except Refusal:
            raise
        except Exception as error:
            log.exception("a piece that cannot be laid out would have been stored")
            raise Refusal("That cannot be done: the piece could not be shown afterwards. The log has more.") from error
        self._laid_out[after.project.id] = evaluation

    def duplicate(self, project: str) -> State:
        """Adds a copy of a project, without its history."""
        document = self.state(project).document
        return self.projects.create(copied(document, self.projects.named(document.project.name)))

    def master(self, timeline: Timeline) -> Master:
        """The master of a piece's sound, remembered for the last few."""
        plan = plan_of(timeline)
        return self._masters.get(plan.key, lambda: Master(plan, self.sounds, self._blocks))

    def sound_in(self, file: str) -> np.ndarray:
        """The sound in a stored file, from its shot's first picture on: int16 (2, n) at 48 kHz, see `read_wav`."""
        return read_wav(self.files.path(file))

    def beats_in(self, file: str) -> Counted | None:
        """The beats of the sound in a stored file, found in its first minutes; None if it has none."""
        return self._counted.get(file, lambda: counted(beats_of(self.sound_in(file)[:, : LISTENED * RATE])))

    def room_for(self, size: int, name: str) -> None:
        """Raises Refusal if the disk has no room for a file of so many bytes, and for what is made of it."""
        free = shutil.disk_usage(self.folder).free
        if free < size + SPARE:
            raise Refusal(
                f"{name} takes {size / 1e9:.1f} GB, and the disk has {free / 1e9:.1f} GB left. Make room first."
            )

    def keep_file(self, path: Path) -> str:
        """Copies a file into the folder; returns its hash."""
        with self.files.incoming() as out:
            with path.open("rb") as source:
                while block := source.read(1 << 20):
                    out.write(block)
            return self.files.keep(out)

    def keep_picture(self, picture: np.ndarray) -> str:
        """Stores a picture, uint8, grey (h, w), RGB (h, w, 3) or RGBA (h, w, 4), without loss; returns its hash."""
        order = [2, 1, 0, 3][: picture.shape[2]] if picture.ndim == 3 else None
        ordered = picture if order is None else np.ascontiguousarray(picture[..., order])
        data = cv2.imencode(".png", ordered, [cv2.IMWRITE_PNG_COMPRESSION, 2])[1].tobytes()
        with self.files.incoming() as out:
            out.write(data)
            return self.files.keep(out)

    def edit(self, project: str, edit: Edit, revision: int | None) -> State:
        """Makes an edit. Raises Refusal, Stale."""
        return self.projects.edit(project, edit, revision)

    def export(
        self, document: Document, *outputs: Output, progress: Callable[[float], None] = lambda share: None
    ) -> None:
        """Writes a document, or what of it is to be sent, to some files. Raises Refusal if it cannot be."""
        for output in outputs:
            if not output.path.parent.is_dir():
                raise Refusal(f"There is no folder {output.path.parent}. Make it first, or choose another.")
        export(document, self.open_library, self.master, outputs, progress)

    def foretold(self, document: Document, writer: Writer, sending: Sending) -> Foretold:
        """The estimate of a sending. Raises Refusal if there is nothing to send."""
        heard = sending.what == "piece" and not plan_of(Timeline(document)).silent
        with self.files.scratch() as folder:
            return foretold(document, self.open_library, folder, writer, sending, heard)

    def export_path(self, document: Document, suffix: str, more: str = "", taken: Container[Path] = ()) -> Path:
        """A place in the exports folder that is free and not taken, named after the project, and `more`; the suffix
        begins with its dot.
        """
        self.exports.mkdir(exist_ok=True)
        stem = re.sub(r"[^\w\- ]+", "", document.project.name).strip()
        # A file's name has at most 255 bytes, of which the hidden name it is written under takes some.
        stem = stem.encode()[:200].decode(errors="ignore").strip() or "Piece"
        stem = f"{stem} {more}".strip()
        path, n = self.exports / f"{stem}{suffix}", 2
        while path.exists() or path in taken:
            path, n = self.exports / f"{stem} {n}{suffix}", n + 1
        return path
