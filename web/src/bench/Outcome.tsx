import { refKey, type System } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { useGrowing } from '../parts/useGrowing';
import type { OutcomeRecord } from './outcomeRecord';
import { RecordOutcome } from './RecordOutcome';
import { digits } from '../parts/habits';

/** The records after a run or replay: one block per system, each record field by field, before and after. */
export function Outcome({ records }: { readonly records: readonly OutcomeRecord[] }) {
  const systems = useSystems().data ?? [];
  if (records.length === 0) return <p className="dim">No record is changed in any system.</p>;
  const bySystem = systems.flatMap((system) => {
    const own = records.filter(({ change }) => change.ref.system === system.key);
    return own.length > 0 ? [{ system, own }] : [];
  });
  return bySystem.map(({ system, own }) => <SystemOutcome key={system.key} system={system} records={own} />);
}

interface SystemOutcomeProps {
  readonly system: System;
  readonly records: readonly OutcomeRecord[];
}

function SystemOutcome({ system, records }: SystemOutcomeProps) {
  const { shown, end } = useGrowing(records.length);
  return (
    <section className="outcome-system" aria-label={`Outcome in ${system.name}`}>
      <h3>
        <SystemTag system={system.key} named /> <span className="dim">{count(records.length, 'record')}</span>
      </h3>
      {records.slice(0, shown).map((record) => (
        <RecordOutcome key={refKey(record.change.ref)} system={system} record={record} />
      ))}
      <div ref={end} className="small dim">
        {shown < records.length && `and ${digits(records.length - shown)} more below`}
      </div>
    </section>
  );
}
