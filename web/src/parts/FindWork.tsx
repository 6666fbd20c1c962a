import type { ReactNode } from 'react';
import { fieldAt, labelAt, type NearMiss, type Step } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { digits } from './habits';
import { count } from './time';
import { Value } from './Value';

interface FindWorkProps {
  readonly step: Extract<Step, { kind: 'find' }>;
  /** What mends a near miss, where it can be mended here. */
  readonly fix?: (miss: NearMiss) => ReactNode;
}

/** The comparisons as they are said. */
export const comparisonWords = {
  equal: 'is',
  in: 'is one of',
  'at least': 'is at least',
  'at most': 'is at most',
  'begins with': 'begins with',
} as const;

/** The work of a find: the conditions with the values compared, how many records came back, and what nearly did. */
export function FindWork({ step, fix }: FindWorkProps) {
  const { conditions, found, records, near = [], leftOut = 0, compared, paired, milliseconds } = step;
  const { system, recordType } = step;
  const fields =
    (useSystems().data ?? [])
      .find(({ key }) => key === system)
      ?.recordTypes.find(({ name }) => name === recordType)?.fields ?? [];
  return (
    <>
      <span className="small">
        {conditions.map(({ field, as, is, values }, at) => (
          <span key={at}>
            {at > 0 && ' and '}
            {as === undefined ? (
              <>
                {labelAt(fields, field)} <span className="mono dim">{field}</span>
              </>
            ) : (
              <span className="mono">{as.replace('item', field)}</span>
            )}{' '}
            {comparisonWords[is]}{' '}
            <Value json={values.length === 1 ? values[0] : [...values]} field={fieldAt(fields, field)} />
          </span>
        ))}
        {conditions.length > 0 && ': '}
      </span>
      <span className={`small ${found > 0 ? 'settled-text' : 'will-text'}`}>
        {found === 0 ? 'no record found' : `${count(found, 'record')} found`}
      </span>
      <span className="small dim">
        {paired && ', known as the counterpart'}
        {leftOut > 0 && `, ${leftOut} more left out by their own condition`}
        {compared !== undefined && `, ${count(compared, 'record')} compared one by one`}
        {records.length > 0 && ': '}
        <span className="mono">{records.map(({ id }) => id).join(', ')}</span>
        {found > records.length && records.length > 0 && ', …'}
        {milliseconds !== undefined && `, in ${digits(milliseconds)} ms`}
      </span>
      {near.map((miss) => (
        <div key={miss.ref.id} className="note near-miss">
          <span className="small">
            Nearly: <strong>{miss.name}</strong> <span className="mono dim">{miss.ref.id}</span>
          </span>
          <div className="versus mono">
            <span className="dim">held</span> <Marked text={miss.held} other={miss.wanted} />
            <span className="dim">wanted</span> <Marked text={miss.wanted} other={miss.held} />
          </div>
          <div className="small">
            {miss.because}. {fix?.(miss)}
          </div>
        </div>
      ))}
    </>
  );
}

/** A text with the stretch in which it differs from another one marked. */
function Marked({ text, other }: { readonly text: string; readonly other: string }) {
  const mine = [...text];
  const theirs = [...other];
  let head = 0;
  while (head < mine.length && mine[head] === theirs[head]) head++;
  let tail = 0;
  while (
    tail < mine.length - head &&
    tail < theirs.length - head &&
    mine.at(-1 - tail) === theirs.at(-1 - tail)
  )
    tail++;
  return (
    <span>
      {mine.slice(0, head).join('')}
      <mark>{mine.slice(head, mine.length - tail).join('')}</mark>
      {mine.slice(mine.length - tail).join('')}
    </span>
  );
}
