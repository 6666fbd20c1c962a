-- Records of a look that are written by one run for many: what went wrong is that of the record, and not of the run.
ALTER TABLE reconcile_records
  ADD COLUMN together boolean NOT NULL DEFAULT false,
  -- Why what was chosen of it was not written, where its run writes others too.
  ADD COLUMN failed text;
-- Each is changed once or twice after it was kept; where its page has room for that, no index is.
ALTER TABLE reconcile_records SET (fillfactor = 70);
