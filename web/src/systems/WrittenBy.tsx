import { Link } from 'react-router';
import type { FieldWrite, Json } from '@vast-knot/core';
import { shortTime } from '../parts/time';
import { Value } from '../parts/Value';

/** Which rule wrote what stands in a field, and what stood there before; nothing where somebody changed it since. */
export function WrittenBy({
  write,
  json,
}: {
  readonly write: FieldWrite | undefined;
  readonly json: Json | undefined;
}) {
  if (!write || JSON.stringify(write.after) !== JSON.stringify(json ?? null)) return null;
  const { before, after, rules, run, at, because } = write;
  const deed = after === null ? 'cleared' : before === null ? 'filled' : 'changed';
  return (
    <div className="written-by small">
      {deed} by <Link to={`/runs/${run}`}>{rules.join(', ')}</Link>{' '}
      <span className="dim">
        at {shortTime(at)}
        {because === null ? '' : `. ${because}`}
      </span>
      {before !== null && (
        <span className="dim">
          {' '}
          It was <Value json={before} />
        </span>
      )}
    </div>
  );
}
