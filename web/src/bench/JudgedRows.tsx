import {
  expectationText,
  type Expectation,
  type Field,
  type FieldComparison,
  type FieldVerdict,
  type ThingComparison,
} from '@vast-knot/core';
import { FieldValue } from '../parts/FieldValue';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { ExpectMenu } from './ExpectMenu';

const verdicts: Readonly<Record<FieldVerdict, readonly [VerdictTone, string]>> = {
  holds: ['settled', 'as expected'],
  differs: ['wrong', 'differs'],
  missing: ['wrong', 'did not change'],
  'not expected': ['wrong', 'not expected'],
};

interface JudgedRowsProps {
  readonly thing: ThingComparison;
  readonly labelOf: (path: string) => string;
  /** The field at a path, where the thing is a record. */
  readonly fieldOf?: (path: string) => Field | undefined;
  /** A message has nothing before. */
  readonly isMessage?: boolean;
}

/** The fields of a record or message: before, after, expected, and whether that is the same. */
export function JudgedRows({ thing, labelOf, fieldOf, isMessage = false }: JudgedRowsProps) {
  return (
    <table className="grid judged">
      <thead>
        <tr>
          <th className="of16">Field</th>
          {!isMessage && <th>Before</th>}
          <th>{isMessage ? 'Sent' : 'After'}</th>
          <th>Expected</th>
          <th className="w114">Verdict</th>
          <th className="w30">
            <span className="visually-hidden">What is expected</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {thing.fields.map((field) => (
          <Row
            key={field.path}
            thing={thing.key}
            field={field}
            definition={fieldOf?.(field.path)}
            label={labelOf(field.path)}
            isMessage={isMessage}
          />
        ))}
      </tbody>
    </table>
  );
}

function Row({
  thing,
  field,
  definition,
  label,
  isMessage,
}: {
  readonly thing: string;
  readonly field: FieldComparison;
  readonly definition: Field | undefined;
  readonly label: string;
  readonly isMessage: boolean;
}) {
  const { path, before, got, expected, verdict } = field;
  const [tone, word] = verdicts[verdict];
  return (
    <tr
      className={verdict === 'holds' ? undefined : 'difference'}
      tabIndex={verdict === 'holds' ? undefined : -1}
    >
      <td>{label}</td>
      {!isMessage && (
        <td>
          <FieldValue field={definition} label={label} json={before} />
        </td>
      )}
      <td>
        {verdict === 'missing' ? (
          <span className="dim small">no change</span>
        ) : (
          <FieldValue field={definition} label={label} json={got} tone="will" />
        )}
      </td>
      <td>
        <Wanted expected={expected} field={definition} label={label} />
      </td>
      <td>
        <Verdict tone={tone}>{word}</Verdict>
      </td>
      <td>
        <ExpectMenu thing={thing} path={path} label={label} got={got} expected={expected} />
      </td>
    </tr>
  );
}

function Wanted({
  expected,
  field,
  label,
}: {
  readonly expected: Expectation | undefined;
  readonly field: Field | undefined;
  readonly label: string;
}) {
  if (!expected) return <span className="dim small">no change</span>;
  if (expected.is === 'equal') return <FieldValue field={field} label={label} json={expected.value} />;
  return <em className="small">{expectationText(expected)}</em>;
}
