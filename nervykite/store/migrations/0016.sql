-- What a job was asked for, where it is taken up again after a restart.
ALTER TABLE jobs ADD COLUMN asked TEXT CHECK (asked IS NULL OR json_valid(asked));
