import {
  refOf,
  type OutcomeComparison,
  type OutcomeOf,
  type RecordOutcome,
  type ThingComparison,
} from '@vast-knot/core';
import { Verdict } from '../parts/Verdict';
import { JudgedRows } from './JudgedRows';
import { Outcome } from './Outcome';
import type { OutcomeRecord } from './outcomeRecord';

interface JudgedOutcomeProps {
  readonly outcome: OutcomeOf;
  readonly comparison: OutcomeComparison;
}

/** The outcome of a replay beside what is expected of it: records, messages, and what went wrong. */
export function JudgedOutcome({ outcome, comparison }: JudgedOutcomeProps) {
  const judged = comparison.verdict !== 'nothing expected';
  const things = new Map(comparison.records.map((thing) => [thing.key, thing]));
  const records = [
    ...outcome.records.map((record) => shown(record, things.get(record.key))),
    ...comparison.records.filter(({ deed }) => deed === undefined).map(missing),
  ];
  const messages = judged
    ? comparison.messages
    : outcome.messages.map(({ key, data }): ThingComparison => ({
        key,
        verdict: 'holds',
        fields: Object.entries(data).map(([path, got]) => ({
          path,
          before: null,
          got,
          expected: { is: 'equal', value: got },
          verdict: 'holds',
        })),
      }));
  const problems = judged
    ? comparison.problems
    : outcome.problems.map((text) => ({ text, verdict: 'holds' as const }));
  return (
    <>
      <Outcome records={records} />
      {messages.map((message) => (
        <section key={message.key} className="outcome-message boxed" aria-label={`Message ${message.key}`}>
          <h3>
            Message <span className="mono small">{message.key}</span>{' '}
            {message.verdict === 'missing' && <Verdict tone="wrong">should be sent and is not</Verdict>}
            {message.verdict === 'not expected' && (
              <Verdict tone="wrong">would be sent, not expected</Verdict>
            )}
          </h3>
          <JudgedRows thing={message} labelOf={(path) => path} isMessage />
        </section>
      ))}
      {problems.map(({ text, verdict }) => (
        <div key={text} className={`note ${verdict === 'holds' ? '' : 'wrong'}`}>
          {verdict === 'missing' && <strong>Expected to go wrong, and does not: </strong>}
          {judged && verdict === 'holds' && <strong>As expected: </strong>}
          {text}
        </div>
      ))}
    </>
  );
}

function shown({ change, before, rules }: RecordOutcome, judged: ThingComparison | undefined): OutcomeRecord {
  return { change, before, rules, ...(judged && { judged }) };
}

/** Returns a record that should have been written and was not. */
function missing(judged: ThingComparison): OutcomeRecord {
  const ref = refOf(judged.key);
  return {
    change:
      judged.expectedDeed === 'create'
        ? { kind: 'create', ref, record: {} }
        : { kind: 'edit', ref, edits: [] },
    before: {},
    rules: [],
    judged,
  };
}
