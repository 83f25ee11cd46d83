-- Structure is in columns with constraints; open-ended settings are JSON that Pydantic checks both ways.
-- Children refer to their parents with deferred foreign keys, so that one edit may write rows in any order.

CREATE TABLE files (
  hash TEXT PRIMARY KEY CHECK (length(hash) = 64),
  size INTEGER NOT NULL CHECK (size >= 0),
  added TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

CREATE TABLE shots (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  file TEXT NOT NULL REFERENCES files (hash),
  proxy_file TEXT NOT NULL REFERENCES files (hash),
  sound_file TEXT REFERENCES files (hash),
  width INTEGER NOT NULL CHECK (width > 0),
  height INTEGER NOT NULL CHECK (height > 0),
  rate TEXT NOT NULL,
  variable INTEGER NOT NULL CHECK (variable IN (0, 1)),
  tick TEXT NOT NULL,
  ticks BLOB NOT NULL, -- signed 64-bit, little endian
  colour TEXT NOT NULL,
  depth INTEGER NOT NULL,
  rotation INTEGER NOT NULL CHECK (rotation IN (0, 90, 180, 270)),
  has_sound INTEGER NOT NULL CHECK (has_sound IN (0, 1)),
  note TEXT
) STRICT;

CREATE TABLE projects (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
  width INTEGER NOT NULL CHECK (width BETWEEN 16 AND 4096 AND width % 2 = 0),
  height INTEGER NOT NULL CHECK (height BETWEEN 16 AND 4096 AND height % 2 = 0),
  rate TEXT NOT NULL,
  background TEXT NOT NULL,
  loop_start INTEGER,
  loop_end INTEGER CHECK ((loop_start IS NULL) = (loop_end IS NULL) AND (loop_end IS NULL OR loop_end > loop_start)),
  revision INTEGER NOT NULL DEFAULT 0,
  changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
  deleted TEXT
) STRICT;

CREATE TABLE project_shots (
  id TEXT PRIMARY KEY, -- project:shot
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  shot TEXT NOT NULL REFERENCES shots (id),
  position INTEGER NOT NULL,
  UNIQUE (project, shot)
) STRICT;

CREATE TABLE moments (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  shot TEXT NOT NULL REFERENCES shots (id),
  frame INTEGER NOT NULL CHECK (frame >= 0),
  name TEXT NOT NULL
) STRICT;

CREATE TABLE ground_items (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL CHECK (kind = 'shot'),
  shot TEXT NOT NULL REFERENCES shots (id),
  first INTEGER NOT NULL CHECK (first >= 0),
  past INTEGER NOT NULL CHECK (past > first),
  fit TEXT NOT NULL CHECK (fit IN ('cover', 'contain'))
) STRICT;

CREATE TABLE holds (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  shot TEXT NOT NULL REFERENCES shots (id),
  frame INTEGER NOT NULL CHECK (frame >= 0),
  name TEXT NOT NULL,
  invert INTEGER NOT NULL CHECK (invert IN (0, 1)),
  grow REAL NOT NULL,
  soften REAL NOT NULL CHECK (soften >= 0)
) STRICT;

CREATE TABLE pieces (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  hold TEXT NOT NULL REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  combine TEXT NOT NULL CHECK (combine IN ('add', 'cut away', 'overlap')),
  invert INTEGER NOT NULL CHECK (invert IN (0, 1)),
  opacity REAL NOT NULL CHECK (opacity BETWEEN 0 AND 1),
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  settings TEXT NOT NULL CHECK (json_valid(settings))
) STRICT;

CREATE TABLE layers (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL, -- 0 is the farthest
  name TEXT NOT NULL,
  hold TEXT NOT NULL REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  over TEXT NOT NULL REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  arrangement TEXT NOT NULL CHECK (arrangement IN ('trail', 'ahead')),
  until INTEGER CHECK (until >= 0),
  anchor_x REAL,
  anchor_y REAL CHECK ((anchor_x IS NULL) = (anchor_y IS NULL)),
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  locked INTEGER NOT NULL CHECK (locked IN (0, 1)),
  pose_x REAL NOT NULL,
  pose_y REAL NOT NULL,
  pose_scale REAL NOT NULL CHECK (pose_scale >= 0),
  pose_rotation REAL NOT NULL,
  pose_opacity REAL NOT NULL CHECK (pose_opacity BETWEEN 0 AND 1)
) STRICT;

CREATE TABLE keys (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  layer TEXT NOT NULL REFERENCES layers (id) DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  channel TEXT NOT NULL CHECK (channel IN ('position', 'scale', 'rotation', 'opacity')),
  tie TEXT NOT NULL CHECK (tie IN ('start', 'landing', 'end')),
  at_offset INTEGER NOT NULL,
  value_x REAL NOT NULL,
  value_y REAL,
  easing TEXT NOT NULL CHECK (easing IN ('bezier', 'stay')),
  x1 REAL NOT NULL CHECK (x1 BETWEEN 0 AND 1),
  y1 REAL NOT NULL,
  x2 REAL NOT NULL CHECK (x2 BETWEEN 0 AND 1),
  y2 REAL NOT NULL
) STRICT;

CREATE TABLE finishes (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  layer TEXT REFERENCES layers (id) DEFERRABLE INITIALLY DEFERRED,
  ground_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL,
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  CHECK ((layer IS NULL) <> (ground_item IS NULL))
) STRICT;

-- The undo log: each edit's rows before and after, written in the transaction of the edit itself.
CREATE TABLE edits (
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  title TEXT NOT NULL,
  changes TEXT NOT NULL CHECK (json_valid(changes)),
  undone INTEGER NOT NULL DEFAULT 0 CHECK (undone IN (0, 1)),
  made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
  PRIMARY KEY (project, number)
) STRICT;

CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('import', 'export')),
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
  title TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'failed', 'cancelled')),
  progress REAL NOT NULL DEFAULT 0 CHECK (progress BETWEEN 0 AND 1),
  message TEXT,
  result TEXT CHECK (result IS NULL OR json_valid(result)),
  made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
) STRICT;

CREATE INDEX by_project_shots ON project_shots (project);
CREATE INDEX by_moments ON moments (project);
CREATE INDEX by_ground_items ON ground_items (project);
CREATE INDEX by_holds ON holds (project);
CREATE INDEX by_pieces ON pieces (project);
CREATE INDEX by_layers ON layers (project);
CREATE INDEX by_keys ON keys (project);
CREATE INDEX by_finishes ON finishes (project);
CREATE INDEX by_jobs ON jobs (project);
