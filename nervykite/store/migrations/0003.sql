-- Where the footage of a shot cuts; what was imported before is taken for one take.

ALTER TABLE shots ADD COLUMN cuts TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(cuts));
