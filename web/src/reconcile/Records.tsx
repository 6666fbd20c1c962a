import { Checkbox } from '@mantine/core';
import { Link } from 'react-router';
import { fieldAt, refOf, type ExistingDifference, type ReconcileRecord } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { SystemTag } from '../parts/SystemTag';
import { Value } from '../parts/Value';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import { standingWords } from './standingWords';

interface RecordsProps {
  readonly records: readonly ReconcileRecord[];
  readonly marked: ReadonlySet<string>;
  readonly mark: (record: string, chosen: boolean) => void;
  readonly more: (() => void) | undefined;
}

/** Differences of one record that are shown in the list. */
const mostShown = 4;
const lineHeight = 24;

/** The records of a look: which, what would be other, from what to what, and what became of it. */
export function Records({ records, marked, mark, more }: RecordsProps) {
  if (records.length === 0) return <p className="dim">No record is like that.</p>;
  return (
    <>
      <div className="look-row look-row-head small dim">
        <span>Record</span>
        <span>Field</span>
        <span>Before</span>
        <span>After</span>
        <span>How it stands</span>
      </div>
      <VirtualRows
        items={records}
        rowHeight={({ differences }) =>
          14 + lineHeight * Math.max(2, Math.min(differences.length, mostShown + 1))
        }
        label="Records that were looked at"
        more={more}
        row={(record) => <Row record={record} marked={marked.has(record.recordId)} mark={mark} />}
      />
    </>
  );
}

function Row({
  record,
  marked,
  mark,
}: Pick<RecordsProps, 'mark'> & { readonly record: ReconcileRecord; readonly marked: boolean }) {
  const { recordId, name, differences, standing, run } = record;
  const mayWrite = useMay('reconciles.write');
  const shown = differences.slice(0, differences.length > mostShown + 1 ? mostShown : mostShown + 1);
  const canBeChosen = mayWrite && standing === 'changes' && run === null;
  return (
    <div className="look-row">
      <span className="who">
        {canBeChosen ? (
          <Checkbox
            size="xs"
            label={<span className="mono">{recordId}</span>}
            checked={marked}
            onChange={({ currentTarget: { checked } }) => mark(recordId, checked)}
          />
        ) : (
          <span className="mono">{recordId}</span>
        )}
        <span title={name ?? ''}>{name}</span>
      </span>
      <span className="differences">
        {shown.map((difference, at) => (
          <Difference key={at} difference={difference} />
        ))}
        {differences.length > shown.length && (
          <span className="small dim">and {differences.length - shown.length} more</span>
        )}
      </span>
      <Outcome record={record} />
    </div>
  );
}

function Difference({
  difference: { key, deed, path, before, after },
}: {
  readonly difference: ExistingDifference;
}) {
  const systems = useSystems().data ?? [];
  if (deed === 'message')
    return (
      <span className="difference">
        <span>message to {key}</span>
        <span />
        <span className="mono">{path}</span>
      </span>
    );
  const { system, recordType, id } = refOf(key);
  const type = systems
    .find((each) => each.key === system)
    ?.recordTypes.find(({ name }) => name === recordType);
  const field = type && fieldAt(type.fields, path);
  return (
    <span className="difference">
      <span>
        <SystemTag system={system} /> {deed === 'create' ? 'new' : <span className="mono small">{id}</span>}{' '}
        {path === '' ? (type?.label ?? recordType) : (field?.label ?? path)}
      </span>
      <span>{deed === 'remove' ? 'is there' : <Value json={before} field={field} />}</span>
      <span>{deed === 'remove' ? 'is removed' : <Value json={after} tone="will" field={field} />}</span>
    </span>
  );
}

function Outcome({
  record: { standing, because, chosen, run, skipped },
}: {
  readonly record: ReconcileRecord;
}) {
  const [tone, word] = outcomeOf({ standing, chosen, run, skipped });
  const why = skipped ?? (run ? run.because : because);
  return (
    <span className="outcome" title={why}>
      {run ? (
        <Link to={`/runs/${run.id}`}>
          <Verdict tone={tone}>{word}</Verdict>
        </Link>
      ) : (
        <Verdict tone={tone}>{word}</Verdict>
      )}
      <span className="small dim">{why}</span>
    </span>
  );
}

function outcomeOf({
  standing,
  chosen,
  run,
  skipped,
}: Pick<ReconcileRecord, 'standing' | 'chosen' | 'run' | 'skipped'>): readonly [VerdictTone, string] {
  if (skipped !== null) return ['quiet', 'left out'];
  if (run) {
    if (run.state === 'waiting') return ['waiting', 'under way'];
    return run.state === 'failed' ? ['wrong', 'failed'] : ['settled', 'written'];
  }
  return chosen ? ['waiting', 'chosen'] : standingWords[standing];
}
