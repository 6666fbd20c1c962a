import { Autocomplete, Select } from '@mantine/core';
import {
  conditionTests,
  fieldAt,
  leafFields,
  valuesOf,
  type ConditionTest,
  type Field,
  type FieldType,
  type TestName,
} from '@vast-knot/core';
import { useSheetState, useSheetTools } from '../SheetContext';
import { ConditionValue } from './ConditionValue';

interface ConditionRowProps {
  readonly test: ConditionTest;
  readonly change: ((test: ConditionTest) => void) | undefined;
}

const monoInput = { input: { fontFamily: 'var(--mono)', fontSize: 12.8 } };

const always: readonly TestName[] = ['is blank', 'is not blank', 'changed'];
const turns: readonly TestName[] = ['changed to', 'changed from … to'];
const equal: readonly TestName[] = ['is', 'is not', 'is one of'];
const ordered: readonly TestName[] = [
  'is at least',
  'is at most',
  'is more than',
  'is less than',
  'is between',
];
const written: readonly TestName[] = ['contains', 'begins with', 'ends with'];

/** The tests that make sense for a type, in the order in which they are wanted. */
const testsOf: Readonly<Record<FieldType, readonly TestName[]>> = {
  text: [...equal, ...written, ...always, ...turns],
  choice: [...equal, ...always, ...turns],
  reference: [...equal, ...always, ...turns],
  multichoice: always,
  boolean: ['is', 'is not', ...always, ...turns],
  integer: [...equal, ...ordered, ...always, ...turns],
  decimal: [...equal, ...ordered, ...always, ...turns],
  date: ['is', 'is not', ...ordered, ...always, ...turns],
  datetime: [...ordered, ...always],
  object: always,
  list: always,
};

/** “Status is one of open, confirmed”: a field or formula, a test of its type, the values that it is held against. */
export function ConditionRow({ test, change }: ConditionRowProps) {
  const { surroundings } = useSheetTools();
  const { body } = useSheetState();
  const { system, recordType } = body.trigger;
  const fields = surroundings.catalog.recordType(system, recordType)?.fields ?? [];
  const field = fieldAt(fields, test.subject.replaceAll("'", ''));
  const offered = field ? testsOf[field.type] : conditionTests.map(({ name }) => name);
  const wanted = valuesOf(test.test);
  const put = (at: number, value: string) => {
    const values = [...test.values];
    values[at] = value;
    change?.({ ...test, values });
  };
  return (
    <>
      <Autocomplete
        aria-label="What is tested"
        data={leafFields(fields).map(({ path }) => (/^[\w.]+$/.test(path) ? path : `'${path}'`))}
        value={test.subject}
        readOnly={!change}
        onChange={(subject) => change?.({ ...test, subject })}
        w={190}
        styles={monoInput}
      />
      <Select
        aria-label="Test"
        data={[...new Set([...offered, test.test])]}
        value={test.test}
        disabled={!change}
        onChange={(chosen) => {
          const next = conditionTests.find(({ name }) => name === chosen);
          if (next) change?.({ ...test, test: next.name, values: sized(test.values, next.values, field) });
        }}
        w={150}
      />
      {wanted === 'many' ? (
        <>
          {[...test.values, ''].map((value, at) => (
            <ConditionValue
              key={at}
              value={value}
              field={field}
              label={`Value ${at + 1}`}
              onChange={
                change &&
                ((next) =>
                  next === '' && test.values.length > 1
                    ? change({ ...test, values: test.values.filter((_value, index) => index !== at) })
                    : put(at, next))
              }
            />
          ))}
        </>
      ) : (
        Array.from({ length: wanted }, (_none, at) => (
          <ConditionValue
            key={at}
            value={test.values[at] ?? ''}
            field={field}
            label={wanted === 2 ? (at === 0 ? 'From' : 'To') : 'Value'}
            onChange={change && ((next) => put(at, next))}
          />
        ))
      )}
    </>
  );
}

/** As many values as a test takes: those there are, and blanks for the rest. */
function sized(
  values: readonly string[],
  wanted: number | 'many',
  field: Field | undefined,
): readonly string[] {
  const length = wanted === 'many' ? Math.max(1, values.length) : wanted;
  const blank = field?.type === 'integer' || field?.type === 'decimal' ? '0' : '""';
  return Array.from({ length }, (_none, at) => values[at] ?? blank);
}
