import { useEffect, useState } from 'react';
import type { JobView } from '@vast-knot/core';
import { digits } from './habits';

/** How fast a job goes, and how long it will take; undefined before that can be told. */
export interface Pace {
  readonly perSecond: number;
  /** In seconds; undefined where it is not known how much there is to do. */
  readonly left: number | undefined;
}

interface Seen {
  readonly job: string;
  readonly done: number;
  readonly at: number;
}

/** It is told after so many milliseconds; before, it would jump about. */
const soonestMs = 1500;

/** Returns how fast a job has gone since it was first seen at work on this page. */
export function usePace({ id, state, done, total }: JobView): Pace | undefined {
  const [first, setFirst] = useState<Seen>();
  const [now, setNow] = useState<Seen>();
  useEffect(() => {
    const seen = { job: id, done, at: performance.now() };
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the clock is read when something came, and not while drawing
    setFirst((known) => (state === 'at work' && known?.job === id ? known : seen));
    setNow(seen);
  }, [id, state, done]);
  if (!first || !now || first.job !== id || now.at - first.at < soonestMs || now.done <= first.done)
    return undefined;
  const perSecond = ((now.done - first.done) / (now.at - first.at)) * 1000;
  return { perSecond, left: total === null ? undefined : Math.max(0, total - done) / perSecond };
}

/** Returns a pace in words: “120 a second, 2 minutes left”. */
export function paceText({ perSecond, left }: Pace): string {
  const rate = perSecond >= 10 ? digits(Math.round(perSecond)) : perSecond.toFixed(1);
  return left === undefined ? `${rate} a second` : `${rate} a second, ${secondsText(left)} left`;
}

function secondsText(seconds: number): string {
  if (seconds < 90) return `${Math.ceil(seconds)} s`;
  return seconds < 5400 ? `${Math.round(seconds / 60)} minutes` : `${(seconds / 3600).toFixed(1)} hours`;
}
