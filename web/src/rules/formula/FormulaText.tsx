import { Fragment } from 'react';
import { FormulaError, parse, print, stepWords, toChain } from '@vast-knot/core';
import { paintedParts } from './paintedParts';

/** How formulas are read on the sheet. */
export type FormulaView = 'steps' | 'text';

/** A formula for reading: as a chain of steps where it is one, else as text. */
export function FormulaText({ formula, view }: { readonly formula: string; readonly view: FormulaView }) {
  const node = view === 'steps' ? parse(formula) : undefined;
  const chain = node === undefined || node instanceof FormulaError ? undefined : toChain(node);
  if (!chain || chain.steps.length === 0) return <Painted formula={formula} />;
  return (
    <span className="chain">
      <Painted formula={print(chain.source)} />
      {chain.steps.map((step, at) => (
        <Fragment key={at}>
          <span className="arrow" aria-label="then">
            →
          </span>
          <span className="step">{stepWords(step)}</span>
        </Fragment>
      ))}
    </span>
  );
}

export function Painted({ formula }: { readonly formula: string }) {
  return (
    <span className="formula-text">
      {paintedParts(formula).map(({ paint, start, end }) => (
        <span key={start} className={paint === 'plain' ? undefined : `f-${paint}`}>
          {formula.slice(start, end)}
        </span>
      ))}
    </span>
  );
}
