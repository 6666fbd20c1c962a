-- What each process counted; of those that are gone the sum, so that nothing that was counted is lost.
CREATE TABLE process_metrics (
  process uuid PRIMARY KEY,
  at timestamptz NOT NULL DEFAULT now(),
  metrics jsonb NOT NULL
);
