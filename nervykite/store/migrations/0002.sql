-- Pieces of more kinds, with an edge of their own; mattes that travel; plates; cutouts that run along.

ALTER TABLE pieces ADD COLUMN grow REAL NOT NULL DEFAULT 0;
ALTER TABLE pieces ADD COLUMN soften_in REAL NOT NULL DEFAULT 0 CHECK (soften_in >= 0);
ALTER TABLE pieces ADD COLUMN soften_out REAL NOT NULL DEFAULT 0 CHECK (soften_out >= 0);

-- What was one softness for both sides of the edge stays as the outer one.
ALTER TABLE holds ADD COLUMN soften_in REAL NOT NULL DEFAULT 0 CHECK (soften_in >= 0);
ALTER TABLE holds ADD COLUMN smooth REAL NOT NULL DEFAULT 0 CHECK (smooth >= 0);
ALTER TABLE holds ADD COLUMN fine_edge REAL NOT NULL DEFAULT 0 CHECK (fine_edge >= 0);
ALTER TABLE holds ADD COLUMN fringe REAL NOT NULL DEFAULT 0 CHECK (fringe BETWEEN 0 AND 1);
ALTER TABLE holds ADD COLUMN plate TEXT;
ALTER TABLE holds ADD COLUMN travel_first INTEGER CHECK (travel_first >= 0);
ALTER TABLE holds ADD COLUMN travel_past INTEGER CHECK (travel_past > travel_first);
UPDATE holds SET soften_in = soften;

CREATE TABLE stops (
  id TEXT PRIMARY KEY, -- hold:frame
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  hold TEXT NOT NULL REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  frame INTEGER NOT NULL CHECK (frame >= 0),
  carried INTEGER NOT NULL CHECK (carried IN (0, 1)),
  locked INTEGER NOT NULL CHECK (locked IN (0, 1)),
  doubt REAL NOT NULL CHECK (doubt BETWEEN 0 AND 1),
  stale INTEGER NOT NULL CHECK (stale IN (0, 1)),
  pieces TEXT NOT NULL CHECK (json_valid(pieces))
) STRICT;
CREATE INDEX by_stops ON stops (project);

-- Mattes that a person saved to put on other holds, of whatever project.
CREATE TABLE saved_mattes (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
  width INTEGER NOT NULL CHECK (width > 0),
  height INTEGER NOT NULL CHECK (height > 0),
  matte TEXT NOT NULL CHECK (json_valid(matte)),
  made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

CREATE TABLE new_ground_items (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('shot', 'plate')),
  shot TEXT NOT NULL REFERENCES shots (id),
  first INTEGER NOT NULL CHECK (first >= 0),
  past INTEGER NOT NULL CHECK (past > first),
  fit TEXT NOT NULL CHECK (fit IN ('cover', 'contain')),
  plate TEXT CHECK ((plate IS NULL) = (kind = 'shot'))
) STRICT;
INSERT INTO new_ground_items SELECT *, NULL FROM ground_items;
DROP TABLE ground_items;
ALTER TABLE new_ground_items RENAME TO ground_items;
CREATE INDEX by_ground_items ON ground_items (project);

CREATE TABLE new_layers (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL, -- 0 is the farthest
  name TEXT NOT NULL,
  hold TEXT NOT NULL REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  over TEXT NOT NULL REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  arrangement TEXT NOT NULL CHECK (arrangement IN ('trail', 'ahead', 'along')),
  until INTEGER CHECK (until >= 0),
  anchor_x REAL,
  anchor_y REAL CHECK ((anchor_x IS NULL) = (anchor_y IS NULL)),
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  locked INTEGER NOT NULL CHECK (locked IN (0, 1)),
  pose_x REAL NOT NULL,
  pose_y REAL NOT NULL,
  pose_scale REAL NOT NULL CHECK (pose_scale >= 0),
  pose_rotation REAL NOT NULL,
  pose_opacity REAL NOT NULL CHECK (pose_opacity BETWEEN 0 AND 1),
  fill INTEGER NOT NULL DEFAULT 0 CHECK (fill IN (0, 1))
) STRICT;
INSERT INTO new_layers SELECT *, 0 FROM layers;
DROP TABLE layers;
ALTER TABLE new_layers RENAME TO layers;
CREATE INDEX by_layers ON layers (project);

CREATE TABLE new_jobs (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('import', 'export', 'find', 'plate', 'carry')),
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  title TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
  progress REAL NOT NULL DEFAULT 0 CHECK (progress BETWEEN 0 AND 1),
  message TEXT,
  result TEXT CHECK (result IS NULL OR json_valid(result)),
  made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;
INSERT INTO new_jobs SELECT * FROM jobs;
DROP TABLE jobs;
ALTER TABLE new_jobs RENAME TO jobs;
CREATE INDEX by_jobs ON jobs (project);
