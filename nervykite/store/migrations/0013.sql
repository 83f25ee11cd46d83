-- How a piece is mixed: the loudness of the ground's own sound, parts of the mix, lines, speed and beats of cues.
ALTER TABLE projects ADD COLUMN mix TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(mix));
ALTER TABLE ground_items ADD COLUMN loudness TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(loudness));
ALTER TABLE cues ADD COLUMN part TEXT NOT NULL DEFAULT 'hits' CHECK (part IN ('bed', 'hits', 'voice'));
ALTER TABLE cues ADD COLUMN speed REAL NOT NULL DEFAULT 100 CHECK (speed BETWEEN 25 AND 400);
ALTER TABLE cues ADD COLUMN pitched INTEGER NOT NULL DEFAULT 0 CHECK (pitched IN (0, 1));
ALTER TABLE cues ADD COLUMN line TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(line));
ALTER TABLE cues ADD COLUMN counted TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(counted));
ALTER TABLE assets ADD COLUMN beats TEXT NOT NULL DEFAULT 'null' CHECK (json_valid(beats));
UPDATE cues SET part = 'bed' WHERE kind = 'shelved';
