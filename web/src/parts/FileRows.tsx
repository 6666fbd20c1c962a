import type { Json } from '@vast-knot/core';
import { count } from './time';
import { Value } from './Value';

interface FileRowsProps {
  readonly label: string;
  readonly columns: readonly string[];
  /** The first of its rows. */
  readonly rows: readonly (readonly Json[])[];
  /** How many it has. */
  readonly of: number;
}

/** The first rows of a file that a rule writes, under the titles of its columns. */
export function FileRows({ label, columns, rows, of }: FileRowsProps) {
  return (
    <>
      <div className="file-rows boxed" role="region" aria-label={`Rows of ${label}`} tabIndex={0}>
        <table className="grid" aria-label={label}>
          <thead>
            <tr>
              {columns.map((title) => (
                <th key={title}>{title}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, at) => (
              <tr key={at}>
                {columns.map((title, column) => (
                  <td key={title}>
                    <Value json={row[column] ?? null} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {of > rows.length && <p className="small dim flush">and {count(of - rows.length, 'further row')}</p>}
    </>
  );
}
