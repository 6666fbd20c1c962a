import { Link } from 'react-router';
import type { VerdictChange } from '../../bench/replay';
import { sampleVerdicts } from '../../bench/SampleRow';
import { count } from '../../parts/time';
import { Verdict } from '../../parts/Verdict';

interface VerdictChangesProps {
  readonly verdicts: readonly VerdictChange[] | undefined;
  /** What the two versions are called. */
  readonly names: readonly [string, string];
}

/** What the samples say of two versions: how many hold, and which of them come out otherwise. */
export function VerdictChanges({ verdicts, names: [one, other] }: VerdictChangesProps) {
  if (!verdicts) return <p className="small dim flush">The samples are being replayed …</p>;
  if (verdicts.length === 0) return <p className="small dim flush">No sample concerns this rule yet.</p>;
  const holding = (of: 'now' | 'then') => verdicts.filter((each) => each[of] === 'holds').length;
  const changed = verdicts.filter(({ now, then }) => now !== then);
  return (
    <div className="small">
      Of {count(verdicts.length, 'sample')}, {holding('now')} hold with {one} and {holding('then')} with{' '}
      {other}. {changed.length === 0 && 'No verdict is another one.'}
      {changed.length > 0 && (
        <ul className="flush">
          {changed.map(({ id, name, now, then }) => (
            <li key={id}>
              <Link to={`/bench/${id}`}>{name}</Link>: {sampleVerdicts[now][1]} →{' '}
              <Verdict tone={sampleVerdicts[then][0]}>{sampleVerdicts[then][1]}</Verdict>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
