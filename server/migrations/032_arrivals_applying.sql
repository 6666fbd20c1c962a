-- The last job that applies rows of a file; noted when it is asked for, so that the same content is not applied twice by itself.
ALTER TABLE arrivals ADD COLUMN IF NOT EXISTS applying uuid;
