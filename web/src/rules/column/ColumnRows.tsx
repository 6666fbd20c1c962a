import { isBlankJson, type Reported } from '@vast-knot/core';
import { ReportedValue } from '../../parts/ReportedValue';
import { textOf, Value } from '../../parts/Value';
import { VirtualRows } from '../../parts/VirtualRows';
import type { ColumnRow } from './columnOf';
import type { ColumnVerdict } from './columnVerdict';

interface ColumnRowsProps {
  readonly uses: readonly string[];
  readonly rows: readonly { readonly row: ColumnRow; readonly verdict: ColumnVerdict }[];
  /** Narrows the list to rows with a value. */
  readonly choose: (text: string) => void;
}

/** The results of one line, a row for each record: what went in, what is there, what it would be. */
export function ColumnRows({ uses, rows, choose }: ColumnRowsProps) {
  if (rows.length === 0) return <p className="dim">No record is like that.</p>;
  return (
    <div className="column-rows">
      <div className="column-row small dim">
        <span>Record, and what went in{uses.length > 0 && `: ${uses.join(', ')}`}</span>
        <span>Would be, and what is there</span>
      </div>
      <VirtualRows
        items={rows}
        keyOf={({ row }) => `${row.source} ${row.target}`}
        rowHeight={46}
        onlyRead
        label="Results of the line"
        row={({ row }) => <OneRow row={row} choose={choose} />}
      />
    </div>
  );
}

function OneRow({ row, choose }: Pick<ColumnRowsProps, 'choose'> & { readonly row: ColumnRow }) {
  const { report } = row;
  return (
    <div className="column-row">
      <span className="cut">
        <span className="small dim">
          {row.sourceName} <span className="mono">{row.source}</span>
        </span>
        <br />
        {row.inputs.map((input, at) => (
          <span key={at}>
            {at > 0 && <span className="dim"> · </span>}
            <Value json={input} />
          </span>
        ))}
      </span>
      {report?.verdict === 'error' ? (
        <span className="value wrong why" title={report.because ?? undefined}>
          {report.because}
        </span>
      ) : (
        <span className="cut">
          {report ? (
            <>
              <button
                type="button"
                className="plain"
                title="Show only rows with this value"
                onClick={() => choose(valueText(report.value))}
              >
                <ReportedValue reported={report.value} changes={report.verdict === 'changes'} />
              </button>
              <br />
              <span className="small dim">
                <span className="mono">{row.target}</span> holds <Value json={report.before} />
                {report.verdict === 'same' && ' already'}
              </span>
            </>
          ) : (
            <span className="small dim">{row.because}</span>
          )}
        </span>
      )}
    </div>
  );
}

function valueText(value: Reported): string {
  if ('error' in value) return value.error;
  return isBlankJson(value.json) ? 'blank' : textOf(value.json);
}
