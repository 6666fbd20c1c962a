import { Button, Progress } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import type { JobState, JobView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { paceText, usePace } from './usePace';
import { digits } from './habits';

interface JobBarProps {
  readonly job: JobView;
  /** What is counted: “Events compared”. */
  readonly what: string;
  /** Called when something was asked of the job. */
  readonly changed: () => void;
}

const words: Readonly<Record<JobState, string>> = {
  waiting: 'waits for its turn',
  'at work': 'at work',
  paused: 'paused',
  done: 'done',
  cancelled: 'cancelled',
  failed: 'failed',
};

/** Returns whether a job waits for its turn or is at work. */
export function isUnfinished(job: JobView | undefined): boolean {
  return job?.state === 'waiting' || job?.state === 'at work';
}

/** How far long work has come, with what can be asked of it. It goes on when the page is left. */
export function JobBar({ job, what, changed }: JobBarProps) {
  const maySteer = useMay('jobs.steer');
  const asked = useMutation({
    mutationFn: (wish: 'pause' | 'resume' | 'cancel') => ask(`/jobs/${job.id}/${wish}`, { method: 'POST' }),
    onSettled: changed,
  });
  const pace = usePace(job);
  const { state, done, total, problem, waits } = job;
  if (state === 'done') return null;
  const unfinished = isUnfinished(job);
  return (
    <div className="job-bar" role="group" aria-label={what}>
      {total !== null && <Progress value={(100 * done) / total} aria-label={what} size="lg" color="ember" />}
      <span className="small">
        {words[state]}
        {total !== null && `, ${digits(done)} of ${digits(total)}`}
        {total === null && done > 0 && `, ${digits(done)} so far`}
        {state === 'at work' && pace && `, ${paceText(pace)}`}
      </span>
      {maySteer && unfinished && (
        <Button size="xs" variant="default" loading={asked.isPending} onClick={() => asked.mutate('pause')}>
          Pause
        </Button>
      )}
      {maySteer && state === 'paused' && (
        <Button size="xs" loading={asked.isPending} onClick={() => asked.mutate('resume')}>
          Go on
        </Button>
      )}
      {maySteer && (unfinished || state === 'paused') && (
        <Button size="xs" variant="default" loading={asked.isPending} onClick={() => asked.mutate('cancel')}>
          Stop
        </Button>
      )}
      {waits !== null && unfinished && (
        <div className="note" role="status">
          It waits: {waits}
        </div>
      )}
      {(problem ?? asked.error) && (
        <div className="note wrong" role="alert">
          {problem ?? sentenceOf(asked.error)}
        </div>
      )}
    </div>
  );
}
