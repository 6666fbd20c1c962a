import {
  expectationText,
  type Expectation,
  type Field,
  type FieldComparison,
  type FieldVerdict,
  type Json,
  type ThingComparison,
} from '@vast-knot/core';
import { Elements, isRows, ListRows } from '../parts/ListRows';
import { Value } from '../parts/Value';
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
  const wanted = expected?.is === 'equal' ? expected.value : undefined;
  const listed = isRows(before) || isRows(got) || isRows(wanted);
  const value = (json: Json | undefined, changes = false) =>
    listed ? (
      <Elements json={json} />
    ) : (
      <Value json={json} field={definition} {...(changes && { tone: 'will' as const })} />
    );
  return (
    <>
      <tr
        className={verdict === 'holds' ? undefined : 'difference'}
        tabIndex={verdict === 'holds' ? undefined : -1}
      >
        <td>{label}</td>
        {!isMessage && <td>{value(before)}</td>}
        <td>{verdict === 'missing' ? <span className="dim small">no change</span> : value(got, true)}</td>
        <td>{wanted === undefined ? <Wanted expected={expected} /> : value(wanted)}</td>
        <td>
          <Verdict tone={tone}>{word}</Verdict>
        </td>
        <td>
          <ExpectMenu
            thing={thing}
            path={path}
            label={label}
            field={definition}
            got={got}
            expected={expected}
          />
        </td>
      </tr>
      {listed && (
        <tr className="rows-row">
          <td colSpan={isMessage ? 5 : 6}>
            {verdict !== 'holds' && wanted !== undefined && (
              <div className="small dim">What was expected, and what came of it instead:</div>
            )}
            <ListRows
              field={definition}
              label={label}
              before={(verdict === 'holds' ? before : wanted) ?? null}
              json={got}
            />
          </td>
        </tr>
      )}
    </>
  );
}

function Wanted({ expected }: { readonly expected: Expectation | undefined }) {
  return expected ? (
    <em className="small">{expectationText(expected)}</em>
  ) : (
    <span className="dim small">no change</span>
  );
}
