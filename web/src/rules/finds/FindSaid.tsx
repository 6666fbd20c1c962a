import { Button } from '@mantine/core';
import { Fragment } from 'react';
import { labelAt, type Field, type Find } from '@vast-knot/core';
import { comparisonWords } from '../../parts/FindWork';
import { noneWords, severalWords } from './findWords';

interface FindSaidProps {
  readonly find: Find;
  readonly fields: readonly Field[];
  readonly open: () => void;
}

/** A find that is wholly said, as one sentence; pressed, it opens to be edited. */
export function FindSaid({ find, fields, open }: FindSaidProps) {
  const { match, where, none, several, order, counterpart } = find;
  const first = order
    ? `${severalWords.first} by ${labelAt(fields, order.field)}`
    : `${severalWords.first} by its id`;
  return (
    <>
      {' '}
      <button type="button" className="said" onClick={open} aria-label={`Edit how ${find.alias} is found`}>
        {match.map(({ field, as, is, formula }, at) => (
          <Fragment key={at}>
            {at > 0 && ' and '}
            {labelAt(fields, field)}
            {as !== undefined && <span className="mono small"> ({as})</span>} {comparisonWords[is]}{' '}
            <span className="mono">{formula}</span>
          </Fragment>
        ))}
        {where !== undefined && (
          <>
            , of them only those with <span className="mono">{where}</span>
          </>
        )}
        <span className="dim">
          {`. On none the rule ${noneWords[none]}; on several it ${several === 'first' ? first : severalWords[several]}`}
          {counterpart ? '; the pair is remembered' : ''}.
        </span>
      </button>
    </>
  );
}

/** Folds a clause that is wholly said to its sentence. */
export function Fold({ close }: { readonly close: (() => void) | undefined }) {
  if (!close) return null;
  return (
    <Button variant="subtle" size="compact-xs" onClick={close}>
      Fold
    </Button>
  );
}

/** Whether nothing of a find is left to be said. */
export function isSaid({ match, where }: Find): boolean {
  return match.every(({ formula }) => formula.trim() !== '') && where?.trim() !== '';
}
