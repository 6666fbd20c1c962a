import { Link } from 'react-router';
import type { LineReport, RuleReport, RuleVerdict, Step } from '@vast-knot/core';
import { Explained, ReportedValue } from '../parts/ReportedValue';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { textOf, Value } from '../parts/Value';
import { Verdict, type VerdictTone } from '../parts/Verdict';

const verdicts: Readonly<Record<RuleVerdict, readonly [VerdictTone, string]>> = {
  'not this kind': ['quiet', 'did not start'],
  'not watched': ['quiet', 'did not start'],
  guard: ['quiet', 'stopped at “only if”'],
  'nothing found': ['quiet', 'found nothing'],
  'nothing to write': ['settled', 'all as it should be'],
  writes: ['will', 'writes'],
  failed: ['wrong', 'failed'],
};

/** What each rule did with an event, and why: every step with what went in and what came out. */
export function RuleReports({ reports }: { readonly reports: readonly RuleReport[] }) {
  if (reports.length === 0) return <p className="dim">No rule is about this record type.</p>;
  return (
    <>
      {reports.map((report, at) => (
        <RuleSteps key={`${report.ruleId}/${report.ref.id}/${at}`} report={report} />
      ))}
    </>
  );
}

function RuleSteps({ report }: { readonly report: RuleReport }) {
  const [tone, word] = verdicts[report.verdict];
  return (
    <details open={report.depth === 0} style={{ marginBottom: 10 }}>
      <summary style={{ cursor: 'pointer' }}>
        <strong>{report.ruleName}</strong>{' '}
        <span className="small dim">{report.version === 0 ? 'draft' : `version ${report.version}`}</span>{' '}
        <Verdict tone={tone}>{word}</Verdict>
        {report.depth > 0 && (
          <span className="small dim">
            {' '}
            caused by the write to <span className="mono">{report.ref.id}</span>
          </span>
        )}
        <div className="dim" style={{ paddingLeft: 14 }}>
          {report.because}
        </div>
      </summary>
      <Link
        to={`/rules/${report.ruleId}`}
        className="small"
        style={{ display: 'inline-block', padding: '4px 14px' }}
      >
        Open the rule
      </Link>
      {report.steps.length > 0 && (
        <ol className="steps">
          {report.steps.map((step, at) => (
            <li key={at}>
              <StepView step={step} />
            </li>
          ))}
        </ol>
      )}
    </details>
  );
}

function StepView({ step }: { readonly step: Step }) {
  switch (step.kind) {
    case 'guard':
      return (
        <>
          <strong>Only if</strong>{' '}
          <Verdict tone={step.holds ? 'settled' : 'quiet'}>{step.holds ? 'holds' : 'does not hold'}</Verdict>
          <Explained part={step.explained} />
        </>
      );
    case 'find':
      return (
        <>
          <strong>Find</strong> <span className="mono">{step.alias}</span>: <SystemTag system={step.system} />{' '}
          {step.recordType} where{' '}
          {step.conditions.map(({ field, values }, at) => (
            <span key={field}>
              {at > 0 && ' and '}
              <span className="mono">{field}</span> is{' '}
              <Value json={values.length === 1 ? values[0] : textOf([...values])} />
            </span>
          ))}
          <div>
            {count(step.found, 'record')} found{step.records.length > 0 && ': '}
            <span className="mono small">{step.records.map(({ id }) => id).join(', ')}</span>
            {step.found > step.records.length && step.records.length > 0 && ', …'}
          </div>
        </>
      );
    case 'write':
      return (
        <>
          <strong>{step.creates ? 'Create' : 'Write'}</strong> <SystemTag system={step.ref.system} />{' '}
          {step.ref.recordType} {!step.creates && <span className="mono">{step.ref.id}</span>}
          <table className="grid boxed" style={{ marginTop: 3 }}>
            <tbody>
              {step.lines.map((line) => (
                <Line key={line.field} line={line} />
              ))}
            </tbody>
          </table>
        </>
      );
    case 'more':
      return <span className="dim">and {count(step.writes, 'further record')}, in the same way</span>;
    case 'problem':
      return <span className="value wrong">{step.message}</span>;
  }
}

const lineVerdicts = { changes: 'will', same: 'settled', kept: 'quiet', error: 'wrong' } as const;
const lineWords = { changes: 'changes', same: 'same already', kept: 'kept', error: 'error' } as const;

function Line({ line }: { readonly line: LineReport }) {
  return (
    <tr>
      <td className="mono" style={{ width: '20%' }}>
        {line.field}
      </td>
      <td className="mono dim" style={{ width: '34%' }}>
        {line.formula}
      </td>
      <td>
        <ReportedValue reported={line.value} changes={line.verdict === 'changes'} />
        {line.because && line.verdict !== 'error' && <span className="small dim"> {line.because}</span>}
      </td>
      <td style={{ width: 110 }}>
        <Verdict tone={lineVerdicts[line.verdict]}>{lineWords[line.verdict]}</Verdict>
      </td>
    </tr>
  );
}
