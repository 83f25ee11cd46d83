-- Dressing: colours kept with a project, and named sets of finishes.
ALTER TABLE projects ADD COLUMN palette TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(palette));
ALTER TABLE projects ADD COLUMN sets TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(sets));
