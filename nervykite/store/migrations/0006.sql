-- What lies in the ground goes over into the next.

ALTER TABLE ground_items ADD COLUMN fade INTEGER NOT NULL DEFAULT 0 CHECK (fade >= 0);
