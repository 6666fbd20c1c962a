import { Link } from 'react-router';
import {
  fieldAt,
  readPath,
  type FieldEdit,
  type JsonObject,
  type RecordRef,
  type System,
  type WriteState,
} from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { hueOf, SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { Value } from '../parts/Value';
import { Verdict, type VerdictTone } from '../parts/Verdict';

export interface OutcomeRecord {
  readonly ref: RecordRef;
  readonly creates?: true;
  readonly removes?: true;
  readonly before: JsonObject;
  readonly edits: readonly FieldEdit[];
  readonly rules: readonly string[];
  /** Absent on the bench, where nothing is written. */
  readonly state?: WriteState;
  readonly problem?: string | null;
}

const verdicts: Readonly<Record<WriteState, readonly [VerdictTone, string]>> = {
  planned: ['waiting', 'to be written'],
  sending: ['waiting', 'on its way'],
  written: ['settled', 'written'],
  failed: ['wrong', 'failed, will be tried again'],
  conflict: ['waiting', 'changed in between, computed anew'],
  refused: ['wrong', 'refused'],
  skipped: ['quiet', 'not written'],
};

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

function RecordOutcome({ system, record }: { readonly system: System; readonly record: OutcomeRecord }) {
  const { ref, creates, removes, before, edits, rules, state, problem } = record;
  const type = system.recordTypes.find(({ name }) => name === ref.recordType);
  const named = edits.find(({ path }) => path === type?.nameField)?.after;
  const name = type && (creates ? named : readPath(before, type.nameField));
  const [tone, word] = state
    ? verdicts[state]
    : (['will', removes ? 'would be removed' : creates ? 'would be created' : 'would be written'] as const);
  // Until its system has given it an id, a created record is known as new.
  const unborn = creates && state !== 'written';
  return (
    <article
      className="outcome-record"
      style={hueOf(system.hue)}
      aria-label={`${type?.label ?? ref.recordType} ${ref.id}`}
    >
      <header>
        {unborn ? (
          <strong>new</strong>
        ) : (
          <Link to={`/records?left=${ref.system}/${ref.recordType}/${ref.id}`} className="mono">
            {ref.id}
          </Link>
        )}
        <span>{typeof name === 'string' && name !== ref.id ? name : type?.label}</span>
        <span className="end">
          <Verdict tone={tone}>
            {state !== 'written' ? word : removes ? 'removed' : creates ? 'created' : word}
          </Verdict>
        </span>
      </header>
      {problem && (
        <div className="note wrong" style={{ margin: '4px 10px' }}>
          {problem}
        </div>
      )}
      <table className="grid">
        <thead className="visually-hidden">
          <tr>
            <th>Field</th>
            <th>Before</th>
            <th>After</th>
          </tr>
        </thead>
        <tbody>
          {edits.map((edit) => (
            <tr key={edit.path}>
              <td style={{ width: '26%' }}>
                {(type && fieldAt(type.fields, edit.path)?.label) ?? edit.path}
              </td>
              <td style={{ width: '34%' }}>
                <Value json={edit.before} />
              </td>
              <td>
                <Value json={edit.after} tone={state === 'written' ? 'settled' : 'will'} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="small dim" style={{ padding: '3px 10px 5px' }}>
        by {rules.join(', ')}
      </div>
    </article>
  );
}
