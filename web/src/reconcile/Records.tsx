import { Checkbox } from '@mantine/core';
import { Link } from 'react-router';
import type { ReconcileRecord } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { Differences, differencesHeight } from '../parts/Differences';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import { standingWords } from './standingWords';

interface RecordsProps {
  readonly records: readonly ReconcileRecord[];
  readonly marked: ReadonlySet<string>;
  readonly mark: (record: string, chosen: boolean) => void;
  readonly more: (() => void) | undefined;
}

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
        keyOf={({ recordId }) => recordId}
        rowHeight={differencesHeight}
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
      <Differences differences={differences} />
      <Outcome record={record} />
    </div>
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
