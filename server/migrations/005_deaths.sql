-- Events whose computation ended the thread that did it: how often, until the event is done with. After the second time it is parked.
CREATE TABLE computation_deaths (
  event_id bigint PRIMARY KEY REFERENCES inbox (id) ON DELETE CASCADE,
  deaths integer NOT NULL
);
