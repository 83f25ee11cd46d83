-- Tracks: how the camera of a take went, and what is pinned to that.
CREATE TABLE tracks (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  shot TEXT NOT NULL REFERENCES shots (id) DEFERRABLE INITIALLY DEFERRED,
  name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
  ref INTEGER NOT NULL CHECK (ref >= 0),
  first INTEGER NOT NULL CHECK (first >= 0),
  model TEXT NOT NULL,
  matrices TEXT NOT NULL CHECK (json_valid(matrices)),
  confidence TEXT NOT NULL CHECK (json_valid(confidence))
) STRICT;
CREATE INDEX tracks_of_project ON tracks (project);
ALTER TABLE layers ADD COLUMN pin TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(pin));
