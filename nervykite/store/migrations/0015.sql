-- Tracks of a touched place or of a patch, what puts them right, and ground that is steadied by them.
ALTER TABLE tracks ADD COLUMN touched TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(touched));
ALTER TABLE tracks ADD COLUMN patch TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(patch));
ALTER TABLE tracks ADD COLUMN fixes TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(fixes));
ALTER TABLE ground_items ADD COLUMN steady TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(steady));
