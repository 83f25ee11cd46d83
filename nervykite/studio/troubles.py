"""The sentence that a person is told of an error that nobody foresaw; the log has the rest."""

import errno
import sqlite3

import av

ROOM = 200
"""So many megabytes are enough to go on with."""
FULL = {errno.ENOSPC, errno.EDQUOT}


def told(error: BaseException, title: str) -> str:
    """A sentence or two about an error in some work: what is wrong as far as that is known, and what to do.

    Names of folders are left out of it: what is shown may be shown to others.
    """
    if isinstance(error, MemoryError):
        return f"{title} failed: it needs more memory than there is. Close other programs, or use a smaller file."
    if isinstance(error, av.FFmpegError):
        return f"{title} failed: the footage cannot be decoded there. Import it again from the original file."
    if (isinstance(error, OSError) and error.errno in FULL) or "disk is full" in str(error):
        return f"{title} failed: the disk is full. Make room on it, {ROOM} MB at least, then try again."
    if isinstance(error, OSError):
        what = error.strerror or "a file could not be read or written"
        return f"{title} failed: {what}. Check the disk, then try again."
    if isinstance(error, sqlite3.Error):
        return f"{title} failed: the database could not be used. Try again; “nervykite doctor” looks what is wrong."
    return (
        f"{title} failed, and the program did not see that coming. Try it again; if it fails the same way, the log in"
        " the data folder says where."
    )
