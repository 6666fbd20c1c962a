import { Button, NumberInput, Select, TextInput } from '@mantine/core';
import { cleanings, leafFields, type LineReport, type RecordType, type TidyStep } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { ReportedValue } from '../../parts/ReportedValue';
import { Value } from '../../parts/Value';
import { TaggedStepRow } from '../../parts/TaggedStepRow';
import { ClauseFormula } from '../formula/ClauseFormula';
import { findingsAt, useSheetState } from '../SheetContext';
import { CodeRuler } from './CodeRuler';

interface TidyStepRowProps {
  readonly place: string;
  readonly step: TidyStep;
  readonly type: RecordType;
  /** Whether the present sample came to this step. */
  readonly done: boolean;
  /** What the step did with it. */
  readonly reports: readonly LineReport[];
  readonly set: (step: TidyStep) => void;
  readonly remove: () => void;
}

/** One tidy step, with the fields that it touched before and after. */
export function TidyStepRow({ place, step, type, done, reports, set, remove }: TidyStepRowProps) {
  const mayChange = useMay('rules.edit');
  const told = reports.filter(({ verdict }) => verdict === 'changes' || verdict === 'error');
  // Of a tagged record its fields are shown, and not the text that holds them.
  const within = told.flatMap((report) => report.within ?? []);
  const plain = told.filter((report) => report.within === undefined);
  return (
    <tr>
      <td>
        <StepWords place={place} step={step} type={type} reports={reports} set={set} />
      </td>
      <td>
        {within.map(({ tag, before }, at) => (
          <div key={at} className="mono small">
            <span className="dim">{tag}</span> {before ?? <span className="dim">not there</span>}
          </div>
        ))}
        {plain.map(({ field, before }) => (
          <div key={field}>
            {step.do === 'remove fields' && <span className="mono dim">{field} </span>}
            <Value json={before} />
          </div>
        ))}
        {done && told.length === 0 && <span className="small dim">nothing to do</span>}
      </td>
      <td>
        {within.map(({ tag, after }, at) => (
          <div key={at} className="mono small">
            <span className="dim">{tag}</span>{' '}
            {after === undefined ? (
              <span className="dim">gone</span>
            ) : (
              <span className="will-text">{after}</span>
            )}
          </div>
        ))}
        {plain.map((report) => (
          <div key={report.field}>
            <ReportedValue reported={report.value} changes={report.verdict === 'changes'} />
          </div>
        ))}
      </td>
      <td>
        {mayChange && (
          <Button variant="subtle" color="rust" size="compact-xs" onClick={remove}>
            Remove
          </Button>
        )}
      </td>
    </tr>
  );
}

function StepWords({ place, step, type, reports, set }: Omit<TidyStepRowProps, 'remove' | 'done'>) {
  const mayChange = useMay('rules.edit');
  const { findings } = useSheetState();
  switch (step.do) {
    case 'remove fields':
      return (
        <span className="step-words">
          clear fields named{' '}
          <TextInput
            aria-label="Pattern of field names"
            value={step.pattern}
            readOnly={!mayChange}
            onChange={({ currentTarget: { value } }) => set({ ...step, pattern: value })}
            w={170}
          />
          <span className="small dim">* stands for any characters</span>
        </span>
      );
    case 'set when absent':
      return (
        <span className="step-words">
          where <FieldChoice step={step} type={type} set={set} /> holds nothing, set it to
          <StepFormula place={place} step={step} set={set} />
        </span>
      );
    case 'set characters':
      return (
        <>
          <span className="step-words">
            in the code <FieldChoice step={step} type={type} set={set} /> from position{' '}
            <NumberInput
              aria-label="Position of the first character"
              value={step.position}
              min={1}
              max={1000}
              readOnly={!mayChange}
              onChange={(position) => set({ ...step, position: Number(position) || 1 })}
              w={70}
            />{' '}
            put
            <StepFormula place={place} step={step} set={set} />
          </span>
          <Rulers step={step} report={reports[0]} />
        </>
      );
    case 'tidy tagged':
      return (
        <>
          <span className="step-words">
            in the tagged record that <FieldChoice step={step} type={type} set={set} /> holds
          </span>
          <TaggedStepRow
            step={step.step}
            right="rules.edit"
            problem={findingsAt(findings, `${place}/step`)[0]?.message}
            change={(next) => set({ ...step, step: next })}
          />
        </>
      );
    case 'clean':
      return (
        <span className="step-words">
          put <FieldChoice step={step} type={type} set={set} /> into the form{' '}
          <Select
            aria-label="How the text is put in order"
            data={[...cleanings]}
            value={step.how}
            disabled={!mayChange}
            onChange={(how) => {
              const chosen = cleanings.find((each) => each === how);
              if (chosen) set({ ...step, how: chosen });
            }}
            w={140}
          />
        </span>
      );
  }
}

/** The code before and after under a ruler of its positions. */
function Rulers({
  step,
  report,
}: {
  readonly step: Extract<TidyStep, { do: 'set characters' }>;
  readonly report: LineReport | undefined;
}) {
  if (!report || !('json' in report.value)) return null;
  const before = typeof report.before === 'string' ? report.before : '';
  const after = typeof report.value.json === 'string' ? report.value.json : '';
  const length = differing(before, after, step.position);
  return (
    <>
      <CodeRuler text={before} position={step.position} length={length} label="Before" />
      {after !== before && <CodeRuler text={after} position={step.position} length={length} label="After" />}
    </>
  );
}

/** Returns how many positions from one on to the last that differs; at least one. */
function differing(before: string, after: string, position: number): number {
  const a = [...before];
  const b = [...after];
  let last = position;
  b.forEach((character, at) => {
    if (character !== a[at]) last = at + 1;
  });
  return Math.max(1, last - position + 1);
}

type FieldStep = Exclude<TidyStep, { do: 'remove fields' }>;

function FieldChoice({
  step,
  type,
  set,
}: {
  readonly step: FieldStep;
  readonly type: RecordType;
  readonly set: (step: TidyStep) => void;
}) {
  const mayChange = useMay('rules.edit');
  return (
    <Select
      aria-label="Field that is put in order"
      data={leafFields(type.fields)
        .filter(({ field }) => !field.readOnly)
        .map(({ path, label }) => ({ value: path, label }))}
      value={step.field}
      searchable
      disabled={!mayChange}
      onChange={(field) => field !== null && set({ ...step, field })}
      w={170}
    />
  );
}

function StepFormula({
  place,
  step,
  set,
}: {
  readonly place: string;
  readonly step: Extract<TidyStep, { formula: string }>;
  readonly set: (step: TidyStep) => void;
}) {
  return (
    <span className="step-formula">
      <ClauseFormula
        place={`${place}/formula`}
        value={step.formula}
        label={`Value for ${step.field}`}
        placeholder='a formula, such as "N"'
        onChange={(formula) => set({ ...step, formula })}
      />
    </span>
  );
}
