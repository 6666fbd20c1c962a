import type { RunTimes, Stretch } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import { fittingRuns, type RunFilter } from './list';

/** Of so many of the newest runs that meet a filter, the times are told. */
const mostTimed = 20_000;
/** Stretches into which times are put, at most. */
const mostStretches = 60;
/** So many are shown before the last, at least. */
const fewestStretches = 29;

const secondMs = 1000;
const minuteMs = 60 * secondMs;
const hourMs = 60 * minuteMs;
const dayMs = 24 * hourMs;
const longest = 364 * dayMs;
/** How long a stretch may be, so that it begins at a round time; beyond, it is several of the longest. */
const stretches = [
  secondMs,
  5 * secondMs,
  15 * secondMs,
  minuteMs,
  5 * minuteMs,
  15 * minuteMs,
  hourMs,
  3 * hourMs,
  12 * hourMs,
  dayMs,
  7 * dayMs,
  28 * dayMs,
  longest,
];

const nothing = { wrote: 0, nothing: 0, failed: 0, waiting: 0 };

/** Returns when the runs that meet a filter came, the newest of them, in stretches of time, by what came of them. */
export async function timesOfRuns(runner: Runner, filter: RunFilter): Promise<RunTimes> {
  const { near, ids, values } = fittingRuns(filter, mostTimed, ['id', 'received_at', 'result', 'state']);
  const { rows } = await runner.query<{ at: Date; is: keyof Omit<Stretch, 'at'>; count: number }>(
    `${near}SELECT date_trunc('second', received_at) AS at, count(*)::integer AS count,
       CASE WHEN state = 'waiting' THEN 'waiting' WHEN result = 'wrote' THEN 'wrote'
         WHEN result IN ('failed', 'partly failed') OR state IN ('failed', 'malformed', 'refused') THEN 'failed' ELSE 'nothing' END AS is
     FROM (${ids}) AS fitting GROUP BY 1, 3 ORDER BY 1`,
    values,
  );
  const times = rows.map(({ at }) => at.getTime());
  const first = filter.from ? Date.parse(filter.from) : (times[0] ?? 0);
  const last = filter.to ? Date.parse(filter.to) - 1 : (times.at(-1) ?? 0);
  // A stretch that was chosen is looked at as closely as it wants; else a few moments are shown as a part of what is around them.
  const least = filter.from || filter.to ? secondMs : minuteMs;
  const step =
    stretches.find((each) => each >= least && (last - first) / each < mostStretches - 1) ??
    longest * Math.ceil((last - first) / longest / (mostStretches - 2));
  const end = Math.floor(last / step);
  const begin = filter.from
    ? Math.floor(first / step)
    : Math.min(Math.floor(first / step), end - fewestStretches);
  const found = new Map<number, Record<keyof Omit<Stretch, 'at'>, number>>();
  for (const { at, is, count } of rows) {
    const place = Math.floor(at.getTime() / step);
    const known = found.get(place) ?? { ...nothing };
    known[is] += count;
    found.set(place, known);
  }
  // Of a stretch that was asked for it is told that nothing came.
  const places = rows.length === 0 && !(filter.from && filter.to) ? 0 : Math.max(0, end - begin + 1);
  return {
    step,
    stretches: Array.from({ length: places }, (_none, at) => ({
      at: new Date((begin + at) * step).toISOString(),
      ...(found.get(begin + at) ?? nothing),
    })),
    newest: rows.reduce((sum, { count }) => sum + count, 0) >= mostTimed ? mostTimed : null,
  };
}
