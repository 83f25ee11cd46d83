-- Layers may hang over nothing, lie on the canvas in their own way, belong to groups, have tags, be looked at alone;
-- a project has pictures and sounds on its shelf besides shots.

CREATE TABLE new_layers (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL, -- 0 is the farthest
  name TEXT NOT NULL,
  kind TEXT NOT NULL,
  hold TEXT REFERENCES holds (id) DEFERRABLE INITIALLY DEFERRED,
  shot TEXT REFERENCES shots (id),
  settings TEXT NOT NULL CHECK (json_valid(settings)),
  over TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  in_group TEXT REFERENCES layers (id) DEFERRABLE INITIALLY DEFERRED,
  arrangement TEXT NOT NULL,
  arranging TEXT NOT NULL CHECK (json_valid(arranging)),
  starts_to TEXT,
  starts_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  starts_offset INTEGER CHECK ((starts_to IS NULL) = (starts_offset IS NULL)),
  ends_to TEXT,
  ends_item TEXT REFERENCES ground_items (id) DEFERRABLE INITIALLY DEFERRED,
  ends_offset INTEGER CHECK ((ends_to IS NULL) = (ends_offset IS NULL)),
  framing TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(framing)),
  anchor TEXT NOT NULL CHECK (json_valid(anchor)),
  visible INTEGER NOT NULL CHECK (visible IN (0, 1)),
  locked INTEGER NOT NULL CHECK (locked IN (0, 1)),
  solo INTEGER NOT NULL DEFAULT 0 CHECK (solo IN (0, 1)),
  tag TEXT,
  blend TEXT NOT NULL DEFAULT 'normal',
  pose_position TEXT NOT NULL CHECK (json_valid(pose_position)),
  pose_scale REAL NOT NULL CHECK (pose_scale >= 0),
  pose_rotation REAL NOT NULL,
  pose_opacity REAL NOT NULL CHECK (pose_opacity BETWEEN 0 AND 1)
) STRICT;

INSERT INTO new_layers (id, project, position, name, kind, hold, shot, settings, over, arrangement, arranging,
  starts_to, starts_item, starts_offset, ends_to, ends_item, ends_offset, anchor, visible, locked, blend,
  pose_position, pose_scale, pose_rotation, pose_opacity)
SELECT id, project, position, name, kind, hold, shot, settings, over, arrangement, arranging,
  starts_to, starts_item, starts_offset, ends_to, ends_item, ends_offset, anchor, visible, locked, blend,
  pose_position, pose_scale, pose_rotation, pose_opacity FROM layers;
DROP TABLE layers;
ALTER TABLE new_layers RENAME TO layers;
CREATE INDEX by_layers ON layers (project);

CREATE TABLE assets (
  id TEXT PRIMARY KEY,
  project TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
  position INTEGER NOT NULL,
  kind TEXT NOT NULL,
  name TEXT NOT NULL,
  file TEXT NOT NULL,
  width INTEGER NOT NULL CHECK (width >= 0),
  height INTEGER NOT NULL CHECK (height >= 0),
  seconds REAL NOT NULL CHECK (seconds >= 0)
) STRICT;
CREATE INDEX by_assets ON assets (project);
