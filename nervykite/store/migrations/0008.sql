-- What was seen of a shot's frames, a stretch of them a row, is kept with the shot; moments have tags.

CREATE TABLE watched (
  shot TEXT NOT NULL REFERENCES shots (id) ON DELETE CASCADE,
  first INTEGER NOT NULL CHECK (first >= 0),
  frames INTEGER NOT NULL CHECK (frames > 0),
  method INTEGER NOT NULL, -- what another version of the program saw is looked at again
  seen BLOB NOT NULL,
  bodies BLOB NOT NULL,
  PRIMARY KEY (shot, first)
) STRICT, WITHOUT ROWID;

ALTER TABLE moments ADD COLUMN tag TEXT;
