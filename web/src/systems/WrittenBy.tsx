import { Link } from 'react-router';
import { sameValue, type Field, type Json, type TimelineEntry } from '@vast-knot/core';
import { Elements, isRows } from '../parts/ListRows';
import { shortTime } from '../parts/time';
import { Value } from '../parts/Value';

type Write = Extract<TimelineEntry, { kind: 'write' }>;

/** The last time that a rule wrote a field. */
interface FieldWrite extends Pick<Write, 'at' | 'run' | 'rules'> {
  readonly edit: Write['edits'][number];
}

/** Returns the last write of a field in a timeline, which has the newest first. */
export function lastWrite(
  timeline: readonly TimelineEntry[] | undefined,
  path: string,
): FieldWrite | undefined {
  for (const entry of timeline ?? []) {
    if (entry.kind !== 'write') continue;
    const edit = entry.edits.find((each) => each.path === path);
    if (edit) return { at: entry.at, run: entry.run, rules: entry.rules, edit };
  }
  return undefined;
}

/** Which rule wrote what stands in a field, and what stood there before; nothing where somebody changed it since. */
export function WrittenBy({
  write,
  json,
  field,
}: {
  readonly write: FieldWrite | undefined;
  readonly json: Json | undefined;
  readonly field: Field;
}) {
  if (!write || !sameValue(undefined, write.edit.after, json)) return null;
  const { rules, run, at } = write;
  const { before, after, because } = write.edit;
  const verb = after === null ? 'cleared' : before === null ? 'filled' : 'changed';
  return (
    <div className="written-by small">
      {verb} by{' '}
      <Link to={`/runs/${run}`}>{rules.map(({ name }) => name).join(', ') || 'what was taken back'}</Link>{' '}
      <span className="dim">
        at {shortTime(at)}
        {because === null ? '.' : `. ${because}`}
      </span>
      {before !== null && (
        <span className="dim">
          {' '}
          It was {isRows(before) ? <Elements json={before} /> : <Value json={before} field={field} />}.
        </span>
      )}
    </div>
  );
}
