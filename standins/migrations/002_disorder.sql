-- The share of events that are sent twice; while it is above 0 they are sent in any order.
ALTER TABLE dials ADD COLUMN disorder double precision NOT NULL DEFAULT 0;
