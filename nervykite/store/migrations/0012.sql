-- Cues: sounds of their own, tied to what happens in the piece.
CREATE TABLE cues (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL CHECK (position >= 0),
  name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
  kind TEXT NOT NULL,
  tied_to TEXT NOT NULL,
  tied_layer TEXT REFERENCES layers (id) DEFERRABLE INITIALLY DEFERRED,
  tied_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  at_offset INTEGER NOT NULL,
  gain REAL NOT NULL CHECK (gain BETWEEN -60 AND 24),
  pan REAL NOT NULL CHECK (pan BETWEEN -1 AND 1),
  muted INTEGER NOT NULL CHECK (muted IN (0, 1)),
  skip REAL NOT NULL CHECK (skip >= 0),
  lasts REAL CHECK (lasts IS NULL OR lasts > 0),
  loops INTEGER NOT NULL CHECK (loops IN (0, 1)),
  reversed INTEGER NOT NULL CHECK (reversed IN (0, 1)),
  fade_in INTEGER NOT NULL CHECK (fade_in >= 0),
  fade_out INTEGER NOT NULL CHECK (fade_out >= 0),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  CHECK (tied_layer IS NULL OR tied_item IS NULL)
) STRICT;
CREATE INDEX cues_of_project ON cues (project, position);
