import { useState } from 'react';
import { Link } from 'react-router';
import {
  cascadesOf,
  refKey,
  type CascadeRecord,
  type CascadeRule,
  type Report,
  type WriteView,
} from '@vast-knot/core';
import { stateWords } from '../bench/outcomeRecord';
import { ruleVerdicts } from '../bench/RuleReports';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';

/** Records of one rule that are shown until all are asked for. */
const shownAtFirst = 8;

interface CascadeProps {
  readonly report: Report;
  readonly writes: readonly WriteView[];
}

/** What led to what in a run: the record that changed, the rules that it started, what they wrote, and what that started in turn. */
export function Cascade({ report, writes }: CascadeProps) {
  return (
    <section aria-label="What led to what">
      <h2>What led to what</h2>
      <ul className="cascade">
        {cascadesOf(report, writes).map((node) => (
          <RecordNode key={refKey(node.ref)} node={node} />
        ))}
      </ul>
    </section>
  );
}

function RecordNode({ node: { ref, write, rules } }: { readonly node: CascadeRecord<WriteView> }) {
  const [tone, word] = write ? stateWords(write) : (['quiet', 'changed'] as const);
  return (
    <li>
      <SystemTag system={ref.system} /> {ref.recordType}{' '}
      <Link className="mono" to={`/records?left=${ref.system}/${ref.recordType}/${ref.id}`}>
        {ref.id}
      </Link>{' '}
      <Verdict tone={tone}>{word}</Verdict>
      {rules.length > 0 && (
        <ul>
          {rules.map((rule, at) => (
            <RuleNode key={`${rule.report.ruleId}/${at}`} node={rule} />
          ))}
        </ul>
      )}
    </li>
  );
}

function RuleNode({ node: { report, records } }: { readonly node: CascadeRule<WriteView> }) {
  const [all, setAll] = useState(false);
  const [tone, word] = ruleVerdicts[report.verdict];
  const shown = all ? records : records.slice(0, shownAtFirst);
  return (
    <li>
      <Link to={`/rules/${report.ruleId}`}>{report.ruleName}</Link> <Verdict tone={tone}>{word}</Verdict>{' '}
      <span className="small dim">{report.because}</span>
      {records.length > 0 && (
        <ul>
          {shown.map((record) => (
            <RecordNode key={refKey(record.ref)} node={record} />
          ))}
          {shown.length < records.length && (
            <li>
              <button type="button" className="plain small" onClick={() => setAll(true)}>
                Show all {count(records.length, 'record')}
              </button>
            </li>
          )}
        </ul>
      )}
    </li>
  );
}
