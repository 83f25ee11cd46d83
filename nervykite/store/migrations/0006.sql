-- What lies in the ground goes over into the next; layers mix with what lies below them in other ways than over it.

ALTER TABLE ground_items ADD COLUMN fade INTEGER NOT NULL DEFAULT 0 CHECK (fade >= 0);
ALTER TABLE layers ADD COLUMN blend TEXT NOT NULL DEFAULT 'normal';
