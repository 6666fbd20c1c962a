import { TextInput } from '@mantine/core';
import type { LaidField } from './layoutRows';
import { Value } from '../parts/Value';
import { useMay } from '../frame/useMay';

interface LayoutLedgerProps {
  readonly fields: readonly LaidField[];
  /** The field whose line is at hand. */
  readonly at: string | undefined;
  readonly choose: (field: string) => void;
  readonly setFrom: (field: string, from: string) => void;
  readonly example: string;
}

/** What fills which field: one row for each field of the record type, with what it would hold for the record that is shown. */
export function LayoutLedger({ fields, at, choose, setFrom, example }: LayoutLedgerProps) {
  const mayChange = useMay('files.send');
  return (
    <table className="grid boxed layout-ledger" aria-label="What fills which field">
      <thead>
        <tr>
          <th>Field</th>
          <th>Where its value comes from</th>
          <th>Here</th>
        </tr>
      </thead>
      <tbody>
        {fields.map(({ path, label, field, from, value, problem, isMissing }) => (
          <tr key={path} className={at === path ? 'at' : ''} onFocus={() => choose(path)}>
            <td>
              {label} <span className="mono small dim">{path}</span>
              {field.required === true && <span className="small dim"> must be filled</span>}
            </td>
            <td>
              <TextInput
                size="xs"
                className="mono"
                aria-label={`Where ${label} comes from`}
                placeholder={at === path ? `${example}, or =formula` : ''}
                value={from}
                readOnly={!mayChange}
                error={problem !== undefined || isMissing}
                onChange={({ currentTarget }) => setFrom(path, currentTarget.value)}
              />
              {(problem !== undefined || isMissing) && (
                <div className="small value wrong" role="note">
                  {problem ?? 'It must be filled, and no line fills it.'}
                </div>
              )}
            </td>
            <td>{from.trim() === '' ? null : <Value json={value} field={field} tone="will" quiet />}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
