import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { fieldAt, fieldsOf, readPath, type System } from '@vast-knot/core';
import { hueOf } from '../parts/SystemTag';
import { FieldChange } from '../parts/FieldValue';
import { isRows } from '../parts/ListRows';
import { Value } from '../parts/Value';
import { Verdict } from '../parts/Verdict';
import { Documents } from './Documents';
import { JudgedRows } from './JudgedRows';
import { stateWords, type OutcomeRecord } from './outcomeRecord';
import { UnchangedFields } from './UnchangedFields';

/** One record as it would be or is: field by field before, after and, on the bench, expected. */
export function RecordOutcome({
  system,
  record,
}: {
  readonly system: System;
  readonly record: OutcomeRecord;
}) {
  const { change, before, rules, state, problem, judged } = record;
  const { ref } = change;
  const creates = change.kind === 'create';
  const edits = useMemo(() => fieldsOf(change), [change]);
  const [raw, setRaw] = useState(false);
  const type = system.recordTypes.find(({ name }) => name === ref.recordType);
  const named = edits.find(({ path }) => path === type?.nameField)?.after;
  const name = type && (creates ? named : readPath(before, type.nameField));
  const [tone, word] = stateWords(record);
  // Until its system has given it an id, a created record is known as new.
  const unborn = creates && state !== 'written';
  const fieldOf = (path: string) => type && fieldAt(type.fields, path);
  const labelOf = (path: string) => fieldOf(path)?.label ?? path;
  return (
    <article
      className="outcome-record"
      style={hueOf(system.hue)}
      aria-label={`${type?.label ?? ref.recordType} ${unborn ? 'new' : ref.id}`}
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
          <button type="button" className="plain small" aria-pressed={raw} onClick={() => setRaw(!raw)}>
            {raw ? 'Fields' : 'Documents'}
          </button>
          <Verdict tone={tone}>{word}</Verdict>
        </span>
      </header>
      {problem && <div className="note wrong record-note">{problem}</div>}
      {raw ? (
        <Documents record={record} />
      ) : judged ? (
        <JudgedRows thing={judged} labelOf={labelOf} fieldOf={fieldOf} />
      ) : (
        <table className="grid">
          <thead>
            <tr>
              <th>Field</th>
              <th>Before</th>
              <th>After</th>
            </tr>
          </thead>
          <tbody>
            {edits.map(({ path, before: held = readPath(before, path), after }) => (
              <tr key={path}>
                <td className="of26">{labelOf(path)}</td>
                {isRows(held) || isRows(after) ? (
                  <td colSpan={2}>
                    <FieldChange field={fieldOf(path)} label={labelOf(path)} before={held} json={after} />
                  </td>
                ) : (
                  <>
                    <td className="of34">
                      <Value json={held} field={fieldOf(path)} />
                    </td>
                    <td>
                      <Value
                        json={after}
                        tone={state === 'written' ? 'settled' : 'will'}
                        field={fieldOf(path)}
                      />
                    </td>
                  </>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {type && !raw && change.kind !== 'remove' && (
        <UnchangedFields
          type={type}
          record={before}
          shown={[...edits, ...(judged?.fields ?? [])].map(({ path }) => path)}
        />
      )}
      {rules.length > 0 && (
        <div className="small dim record-said">by {rules.map(({ name }) => name).join(', ')}</div>
      )}
    </article>
  );
}
