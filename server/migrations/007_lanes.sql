-- The records of a system are shared out to a few lanes. One job handles a lane, and takes many of its records at a time.
CREATE FUNCTION lane_of(system text, record_type text, record_id text) RETURNS integer LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT (abs(hashtext(system || '/' || record_type || '/' || record_id)::bigint) % 4)::integer
$$;
-- The system comes second, so that nobody takes it for the way to one record while the table has no statistics yet.
CREATE INDEX inbox_of_lane ON inbox (lane_of(system, record_type, record_id), system, id) WHERE state = 'waiting';

-- Until now each record had a job of its own. Those that are left over are taken up by their lanes when a worker starts.
DO $$
BEGIN
  IF to_regclass('graphile_worker._private_jobs') IS NOT NULL THEN
    DELETE FROM graphile_worker._private_jobs AS job USING graphile_worker._private_tasks AS task
    WHERE task.id = job.task_id AND task.identifier = 'handle_record';
  END IF;
END
$$;
