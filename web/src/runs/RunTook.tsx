import type { RunDetail } from '@vast-knot/core';
import { digits } from '../parts/habits';

/** How long each part of a run took: until it was computed, until the first and the last record were written, until it ended. */
export function RunTook({ run }: { readonly run: RunDetail }) {
  const came = Date.parse(run.receivedAt);
  const written = run.outcome.flatMap(({ writtenAt }) => (writtenAt ? [Date.parse(writtenAt)] : []));
  const parts: readonly (readonly [string, number | undefined])[] = [
    ['computed', run.computedAt ? Date.parse(run.computedAt) : undefined],
    ['first record written', written.length > 0 ? Math.min(...written) : undefined],
    ['last record written', new Set(written).size > 1 ? Math.max(...written) : undefined],
    ['ended', run.finishedAt ? Date.parse(run.finishedAt) : undefined],
  ];
  const told = parts.flatMap(([what, at]) =>
    at === undefined ? [] : [`${what} after ${lengthText(at - came)}`],
  );
  if (told.length === 0 || run.attempts > 1) return null;
  return <p className="small dim">{told.join(' · ')}</p>;
}

function lengthText(milliseconds: number): string {
  const ms = Math.max(0, milliseconds);
  if (ms < 1000) return `${ms} ms`;
  return ms < 120_000 ? `${(ms / 1000).toFixed(1)} s` : `${digits(Math.round(ms / 60_000))} min`;
}
