import { useSystems } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import type { OutcomeRecord } from './outcomeRecord';
import { RecordOutcome } from './RecordOutcome';

/** The records after a run or replay: one block per system, each record field by field, before and after. */
export function Outcome({ records }: { readonly records: readonly OutcomeRecord[] }) {
  const systems = useSystems().data ?? [];
  if (records.length === 0) return <p className="dim">No record is changed in any system.</p>;
  const bySystem = systems.flatMap((system) => {
    const own = records.filter(({ ref }) => ref.system === system.key);
    return own.length > 0 ? [{ system, own }] : [];
  });
  return (
    <>
      {bySystem.map(({ system, own }) => (
        <section key={system.key} className="outcome-system" aria-label={`Outcome in ${system.name}`}>
          <h3>
            <SystemTag system={system.key} named /> <span className="dim">{count(own.length, 'record')}</span>
          </h3>
          {own.map((record) => (
            <RecordOutcome
              key={`${record.ref.recordType}/${record.ref.id}`}
              system={system}
              record={record}
            />
          ))}
        </section>
      ))}
    </>
  );
}
