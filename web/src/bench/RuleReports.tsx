import { Link } from 'react-router';
import type { LineReport, RuleReport, RuleVerdict, Step } from '@vast-knot/core';
import { Explained, ReportedValue } from '../parts/ReportedValue';
import { FileRows } from '../parts/FileRows';
import { SystemTag } from '../parts/SystemTag';
import { FindWork } from '../parts/FindWork';
import { count } from '../parts/time';
import { useGrowing } from '../parts/useGrowing';
import { textOf, Value } from '../parts/Value';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { wayWords } from '../parts/wayWords';
import { digits } from '../parts/habits';

export const ruleVerdicts: Readonly<Record<RuleVerdict, readonly [VerdictTone, string]>> = {
  'not this kind': ['quiet', 'did not start'],
  'not watched': ['quiet', 'did not start'],
  guard: ['quiet', 'stopped at “only if”'],
  'nothing found': ['quiet', 'found nothing'],
  'nothing to write': ['settled', 'all as it should be'],
  waits: ['quiet', 'waits'],
  writes: ['will', 'writes'],
  failed: ['wrong', 'failed'],
};

interface RuleReportsProps {
  readonly reports: readonly RuleReport[];
  /** The sample that the lines are looked at with when they are opened from here. */
  readonly sample?: string;
  /** Takes what came in as a sample, and opens a rule with it at a place of its sheet. */
  readonly takeUp?: ((rule: string, place: string) => void) | undefined;
  /** They are about many records: each is named, and opened when it is wanted. */
  readonly ofMany?: boolean;
}

/** The address of a line of a rule. */
type LineAddress = (action: number, field: string) => string;

/** What each rule did with an event, and why: every step with what went in and what came out. */
export function RuleReports({ reports, sample, takeUp, ofMany = false }: RuleReportsProps) {
  const { shown, end } = useGrowing(reports.length);
  if (reports.length === 0) return <p className="dim">No rule is about this record type.</p>;
  return (
    <>
      {reports.slice(0, shown).map((report, at) => (
        <RuleSteps
          key={`${report.ruleId}/${report.ref.id}/${at}`}
          report={report}
          sample={sample}
          takeUp={takeUp}
          ofMany={ofMany}
        />
      ))}
      {shown < reports.length && (
        <div ref={end} className="small dim">
          and {count(reports.length - shown, 'more rule', 'more')} below
        </div>
      )}
    </>
  );
}

interface RuleStepsProps {
  readonly report: RuleReport;
  readonly sample: string | undefined;
  readonly takeUp: RuleReportsProps['takeUp'];
  readonly ofMany: boolean;
}

function RuleSteps({ report, sample, takeUp, ofMany }: RuleStepsProps) {
  const at = sample === undefined ? '' : `sample=${sample}&`;
  const lineAt: LineAddress = (action, field) => `/rules/${report.ruleId}?${at}line=${action}/${field}`;
  const [tone, word] = ruleVerdicts[report.verdict];
  const { shown, end } = useGrowing(report.steps.length);
  return (
    <details open={report.depth === 0 && !ofMany} className="rule-report">
      <summary>
        <strong>{report.ruleName}</strong>{' '}
        {ofMany && (
          <>
            for <span className="mono">{report.ref.id}</span>{' '}
          </>
        )}
        <span className="small dim">{report.version === 0 ? 'draft' : `version ${report.version}`}</span>{' '}
        <Verdict tone={tone}>{word}</Verdict>
        {report.milliseconds !== undefined && (
          <span className="small dim mono"> {digits(report.milliseconds)} ms</span>
        )}
        {report.depth > 0 && (
          <span className="small dim">
            {' '}
            caused by the write to <span className="mono">{report.ref.id}</span>
          </span>
        )}
        <div className="dim because">{report.because}</div>
      </summary>
      <Link
        to={`/rules/${report.ruleId}${sample === undefined ? '' : `?sample=${sample}`}`}
        className="small open-rule"
      >
        Open the rule
      </Link>
      {report.steps.length > 0 && (
        <ol className="steps">
          {report.steps.slice(0, shown).map((step, at) => (
            <li key={at}>
              {takeUp && report.depth === 0 && (
                <button
                  type="button"
                  className="plain small take-up"
                  onClick={() => takeUp(report.ruleId, placeOf(step))}
                >
                  Edit, and replay from here
                </button>
              )}
              <StepView step={step} lineAt={lineAt} />
              <StepTime step={step} of={report.steps} />
            </li>
          ))}
          {shown < report.steps.length && (
            <li className="dim">
              <div ref={end}>and {count(report.steps.length - shown, 'more step')} below</div>
            </li>
          )}
        </ol>
      )}
    </details>
  );
}

/** How long a step took; a find says so itself. */
function StepTime({ step, of }: { readonly step: Step; readonly of: readonly Step[] }) {
  if (step.kind === 'find' || step.milliseconds === undefined) return null;
  const isOneOfMany =
    'action' in step &&
    of.some((other) => other !== step && 'action' in other && other.action === step.action);
  return (
    <div className="small dim">
      took {digits(step.milliseconds)} ms{isOneOfMany && ', for all records of this action'}
    </div>
  );
}

/** Returns where on the sheet of its rule a step stands. */
function placeOf(step: Step): string {
  const [line] = step.kind === 'write' && !step.tidied ? step.lines : [];
  return step.kind === 'write' && line ? `line=${step.action}/${line.field}` : '';
}

interface StepViewProps {
  readonly step: Step;
  /** Absent for the lines of another rule, which stand on its own sheet. */
  readonly lineAt?: LineAddress;
}

function StepView({ step, lineAt }: StepViewProps) {
  switch (step.kind) {
    case 'guard':
      return (
        <>
          <strong>Only if</strong>{' '}
          <Verdict tone={step.holds ? 'settled' : 'quiet'}>{step.holds ? 'holds' : 'does not hold'}</Verdict>
          <Explained part={step.explained} />
          {step.before && (
            <>
              <div>
                before the change it{' '}
                <Verdict tone="quiet">{step.before.holds ? 'held too' : 'did not hold'}</Verdict>
              </div>
              <Explained part={step.before.explained} />
            </>
          )}
        </>
      );
    case 'find':
      return (
        <>
          <strong>Find</strong> <span className="mono">{step.alias}</span>: <SystemTag system={step.system} />{' '}
          {step.recordType} where
          <div>
            <FindWork step={step} />
          </div>
        </>
      );
    case 'write':
      return (
        <>
          <strong>{step.creates ? 'Create' : step.tidied ? 'Put in order' : 'Write'}</strong>{' '}
          <SystemTag system={step.ref.system} /> {step.ref.recordType}{' '}
          {!step.creates && <span className="mono">{step.ref.id}</span>}
          <table className="grid boxed step-lines">
            <thead>
              <tr>
                <th>Field</th>
                <th>Made by</th>
                <th>Value</th>
                <th>What becomes of it</th>
              </tr>
            </thead>
            <tbody>
              {step.lines.map((line) => (
                <Line
                  key={line.field}
                  line={line}
                  to={step.tidied ? undefined : lineAt?.(step.action, line.field)}
                />
              ))}
            </tbody>
          </table>
        </>
      );
    case 'remove':
      return (
        <>
          <strong>Remove</strong> <SystemTag system={step.ref.system} /> {step.ref.recordType}{' '}
          <span className="mono">{step.ref.id}</span>
        </>
      );
    case 'message':
      return (
        <>
          <strong>Send</strong> to <span className="mono">{step.message.endpoint}</span>:{' '}
          <span className="mono">{step.message.type}</span>
          <Value json={textOf(step.message.data)} />
        </>
      );
    case 'file':
      return (
        <>
          <strong>Write the file</strong> <span className="mono">{step.name}</span>, {count(step.rows, 'row')}
          , {wayWords(step.way, step.endpoint)}
          <FileRows label={step.name} columns={step.columns} rows={step.first} of={step.rows} />
        </>
      );
    case 'passed over':
      return (
        <>
          <strong>Passed over</strong> {step.ref.recordType} <span className="mono">{step.ref.id}</span>: the
          condition of action {step.action + 1} does not hold
          <Explained part={step.explained} />
        </>
      );
    case 'applied':
      return (
        <>
          <strong>Did</strong> what “{step.ruleName}” does, for {count(step.records, 'record')}
          <ol className="steps">
            {step.steps.map((inner, at) => (
              <li key={at}>
                <StepView step={inner} />
              </li>
            ))}
          </ol>
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

function Line({ line, to }: { readonly line: LineReport; readonly to: string | undefined }) {
  return (
    <tr>
      <td className="mono of20">{to === undefined ? line.field : <Link to={to}>{line.field}</Link>}</td>
      <td className="mono dim of34">{line.formula}</td>
      <td>
        <ReportedValue reported={line.value} changes={line.verdict === 'changes'} />
        {line.because && line.verdict !== 'error' && <span className="small dim"> {line.because}</span>}
      </td>
      <td className="w110">
        <Verdict tone={lineVerdicts[line.verdict]}>{lineWords[line.verdict]}</Verdict>
      </td>
    </tr>
  );
}
