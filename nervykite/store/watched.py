"""The records of shots' frames, kept stretch by stretch: what a crash leaves is whole as far as it goes."""

from collections.abc import Iterator
from dataclasses import dataclass

from .database import Database


@dataclass(frozen=True)
class Stretch:
    """Frames first…first+frames−1 of a shot; seen: so many rows of numbers, as bytes."""

    first: int
    frames: int
    seen: bytes

    @property
    def past(self) -> int:
        """The number after its last frame."""
        return self.first + self.frames


class Watched:
    """Reads and writes it. Stretches that another method made are not there, and are written over."""

    def __init__(self, database: Database, method: int) -> None:
        self._database, self._method = database, method

    def stretches(self, shot: str) -> list[Stretch]:
        """The stretches known of a shot, in order."""
        query = "SELECT first, frames, seen FROM watched WHERE shot = ? AND method = ? ORDER BY first"
        with self._database.reading() as connection:
            return [Stretch(*row) for row in connection.execute(query, (shot, self._method))]

    def known(self, shot: str) -> list[range]:
        """The frames that are known, stretch by stretch, in order."""
        query = "SELECT first, first + frames FROM watched WHERE shot = ? AND method = ? ORDER BY first"
        with self._database.reading() as connection:
            return [range(*row) for row in connection.execute(query, (shot, self._method))]

    def put(self, shot: str, first: int, frames: int, seen: bytes, bodies: bytes) -> None:
        """Keeps a stretch. A shot that is there no more keeps nothing."""
        with self._database.writing() as connection:
            if connection.execute("SELECT 1 FROM shots WHERE id = ?", (shot,)).fetchone() is None:
                return
            connection.execute("DELETE FROM watched WHERE shot = ? AND method <> ?", (shot, self._method))
            connection.execute(
                "INSERT OR REPLACE INTO watched (shot, first, frames, method, seen, bodies) VALUES (?, ?, ?, ?, ?, ?)",
                (shot, first, frames, self._method, seen, bodies),
            )

    def take_over(self, shot: str) -> None:
        """Gives a shot what was seen of another one of the same file and frames, if more is known of that."""
        with self._database.writing() as connection:
            row = connection.execute(
                "SELECT other.id, sum(w.frames) AS known FROM shots AS own JOIN shots AS other"
                " ON other.file = own.file AND other.cuts = own.cuts AND other.id <> own.id"
                " JOIN watched AS w ON w.shot = other.id AND w.method = ?"
                " WHERE own.id = ? GROUP BY other.id ORDER BY known DESC LIMIT 1",
                (self._method, shot),
            ).fetchone()
            own = "SELECT coalesce(sum(frames), 0) FROM watched WHERE shot = ? AND method = ?"
            if row is None or row["known"] <= connection.execute(own, (shot, self._method)).fetchone()[0]:
                return
            connection.execute("DELETE FROM watched WHERE shot = ?", (shot,))
            connection.execute(
                "INSERT INTO watched (shot, first, frames, method, seen, bodies)"
                " SELECT ?, first, frames, method, seen, bodies FROM watched WHERE shot = ? AND method = ?",
                (shot, row["id"], self._method),
            )

    def bodies(self, shot: str, frames: list[int]) -> Iterator[tuple[int, int, bytes]]:
        """The stretches that have some frames: first frame, how many, their bodies."""
        query = (
            "SELECT first, frames, bodies FROM watched"
            " WHERE shot = ? AND method = ? AND first <= ? ORDER BY first DESC LIMIT 1"
        )
        past = -1
        with self._database.reading() as connection:
            for frame in sorted(frames):
                if frame < past:
                    continue
                row = connection.execute(query, (shot, self._method, frame)).fetchone()
                if row is not None and frame < row["first"] + row["frames"]:
                    past = row["first"] + row["frames"]
                    yield row["first"], row["frames"], row["bodies"]
