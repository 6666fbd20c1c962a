import { TextInput } from '@mantine/core';
import { useMemo, useState } from 'react';
import { families, formulaFunctions, signature, type Scope } from '@vast-knot/core';
import { useKnown } from '../api/queries';
import { ReportedValue } from '../parts/ReportedValue';
import type { AddressChanges } from '../parts/useAddress';
import { surroundingsOf } from '../work/known';
import { fits } from './fits';
import { tryFormula } from './tryFormula';

interface FormulaReferenceProps {
  readonly wanted: string;
  /** The formula that is being tried. */
  readonly tried: string;
  readonly put: (changes: AddressChanges) => void;
}

const noTables: Scope['tables'] = new Map();

/** Every function with its examples, each of which is computed here and can be changed. */
export function FormulaReference({ wanted, tried, put }: FormulaReferenceProps) {
  const { known } = useKnown();
  const tables = useMemo(() => (known ? surroundingsOf(known).tables : noTables), [known]);
  const [now] = useState(() => new Date().toISOString());
  const shown = formulaFunctions.filter(({ name, meaning, family }) => fits([name, meaning, family], wanted));
  return (
    <>
      <div className="try-formula boxed">
        <TextInput
          label="Try one"
          description="A formula that needs no record; the lookup tables that are here can be read."
          placeholder={'PROPER("north skerry") & ", " & TEXT(1234.5, "0.00")'}
          value={tried}
          maxLength={2000}
          onChange={({ currentTarget: { value } }) => put({ try: value })}
          styles={{ input: { fontFamily: 'var(--mono)' } }}
        />
        <div role="status" aria-label="What it gives">
          {tried.trim() !== '' && <ReportedValue reported={tryFormula(tried, tables, now)} />}
        </div>
      </div>
      {shown.length === 0 && <p className="dim">No function means that.</p>}
      {families.map((family) => {
        const here = shown.filter((entry) => entry.family === family);
        if (here.length === 0) return null;
        return (
          <section key={family} aria-label={`Functions: ${family}`}>
            <h2>{family.charAt(0).toUpperCase() + family.slice(1)}</h2>
            {here.map((entry) => (
              <section key={entry.name} className="function" id={entry.name} aria-label={entry.name}>
                <h3 className="mono">{signature(entry)}</h3>
                <p className="flush">{entry.meaning}</p>
                <ul>
                  {entry.examples.map(({ formula, gives }) => {
                    const given = tryFormula(formula, tables, now);
                    return (
                      <li key={formula}>
                        <button
                          type="button"
                          className="plain mono"
                          title="Try it"
                          onClick={() => put({ try: formula })}
                        >
                          {formula}
                        </button>{' '}
                        gives{' '}
                        {'error' in given ? (
                          <span className="mono">{gives}</span>
                        ) : (
                          <ReportedValue reported={given} />
                        )}
                      </li>
                    );
                  })}
                </ul>
                <p className="small dim flush">Source: {entry.source}.</p>
              </section>
            ))}
          </section>
        );
      })}
    </>
  );
}
