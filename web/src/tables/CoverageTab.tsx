import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { keyColumns, showCell, type CoverageView, type Row, type TableView } from '@vast-knot/core';
import { useTableCoverage } from '../api/queries';
import { useMay } from '../frame/useMay';
import { SystemTag } from '../parts/SystemTag';
import { Empty, Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';

interface CoverageTabProps {
  readonly table: TableView;
  /** Puts rows with these keys into the table, to be filled in. */
  readonly onAdd: (rows: readonly Row[]) => void;
}

/** Which keys occur in records, or could by their options, and have no row. */
export function CoverageTab({ table, onAdd }: CoverageTabProps) {
  const coverage = useTableCoverage(table.name);
  if (coverage.isPending) return <Loading />;
  if (coverage.isError) return <Failure error={coverage.error} again={() => void coverage.refetch()} />;
  if (coverage.data.length === 0) {
    return (
      <Empty title="No rule looks anything up here">
        Write <span className="mono">TABLE("{table.name}", …)</span> in a formula; then this place says which
        values of the source have no row.
      </Empty>
    );
  }
  return (
    <div className="page under-tabs">
      {coverage.data.map((use) => (
        <Use key={`${use.rule.id}/${use.at}`} table={table} use={use} onAdd={onAdd} />
      ))}
    </div>
  );
}

function Use({ table, use, onAdd }: CoverageTabProps & { readonly use: CoverageView }) {
  const mayChange = useMay('tables.change');
  const { uncovered, occurring } = use;
  const covered = occurring - uncovered.length;
  const add = () => onAdd(uncovered.map(({ keys }) => rowWithKeys(table, keys)));
  return (
    <section className="boxed coverage" aria-label={`Coverage for ${use.rule.name}`}>
      <header>
        <SystemTag system={use.system} /> <strong>{use.recordType}</strong> in{' '}
        <Link to={`/rules/${use.rule.id}`}>{use.rule.name}</Link>
        <div className="value dim">{use.formula}</div>
        <div>
          <Verdict tone={uncovered.length === 0 ? 'settled' : 'will'}>
            {uncovered.length === 0
              ? `all ${count(occurring, 'key')} have a row`
              : `${count(uncovered.length, 'key')} without a row`}
          </Verdict>{' '}
          <span className="small dim">
            {covered} of {occurring} covered; {count(use.records, 'record')} looked through
            {use.more && ', there are more'}
          </span>
          <div className="meter" aria-hidden>
            <span style={{ width: `${occurring === 0 ? 100 : (covered / occurring) * 100}%` }} />
          </div>
        </div>
      </header>
      {uncovered.length > 0 && (
        <>
          <table className="grid">
            <thead>
              <tr>
                <th>{keyLabels(table)}</th>
                <th className="to-right w200">Records that have it</th>
              </tr>
            </thead>
            <tbody>
              {uncovered.map(({ keys, records }) => (
                <tr key={JSON.stringify(keys)}>
                  <td className="value">{keys.map(showCell).join(' / ')}</td>
                  <td className="to-right">{records === 0 ? 'none yet, an option' : records}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {mayChange && (
            <Button m={8} onClick={add}>
              {uncovered.length === 1
                ? 'Add this key as a row to fill'
                : `Add these ${uncovered.length} keys as rows to fill`}
            </Button>
          )}
        </>
      )}
    </section>
  );
}

function keyLabels(table: TableView): string {
  return keyColumns(table)
    .map((at) => table.columns[at]?.label ?? '')
    .join(' / ');
}

function rowWithKeys(table: TableView, keys: Row): Row {
  const places = keyColumns(table);
  return table.columns.map((_column, at) => {
    const key = places.indexOf(at);
    return key < 0 ? null : (keys[key] ?? null);
  });
}
