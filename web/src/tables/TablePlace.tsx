import { useCallback, useState } from 'react';
import { useSearchParams } from 'react-router';
import type { Row, TableSummary, TableView } from '@vast-knot/core';
import { useTable } from '../api/queries';
import { AlsoHere } from '../parts/AlsoHere';
import { Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { CoverageTab } from './CoverageTab';
import { HistoryTab } from './HistoryTab';
import { RowsTab } from './RowsTab';
import { SettingsTab } from './SettingsTab';
import { useRowEdits } from './useRowEdits';
import { WhereUsed } from './WhereUsed';

const tabs = { rows: 'Rows', coverage: 'Coverage', history: 'History', settings: 'Settings' } as const;
type Tab = keyof typeof tabs;
const tabNames = Object.keys(tabs) as Tab[];

/** One table: its rows, how far they reach, what was done to it, its columns. */
export function TablePlace({ summary }: { readonly summary: TableSummary }) {
  const table = useTable(summary);
  if (table.isError) return <Failure error={table.error} again={() => void table.refetch()} />;
  return table.data ? <Tabs table={table.data} summary={summary} /> : <Loading />;
}

function Tabs({ table, summary }: { readonly table: TableView; readonly summary: TableSummary }) {
  const [params, setParams] = useSearchParams();
  const tab = tabNames.find((name) => name === params.get('tab')) ?? 'rows';
  const edits = useRowEdits(table);
  /** Whether a row was just added that is to be filled. */
  const [fills, setFills] = useState(false);
  const filled = useCallback(() => setFills(false), []);
  const open = (name: Tab) => setParams(name === 'rows' ? {} : { tab: name }, { replace: true });
  const add = (rows: readonly Row[]) => {
    edits.addRows(rows);
    setFills(true);
    open('rows');
  };
  return (
    <div className="table-place">
      <header className="page table-head">
        <div className="page-head">
          <h1>{table.name}</h1>
          <span className="dim">{count(summary.rowCount, 'row')}</span>
          <AlsoHere kind="table" of={table.name} />
        </div>
        <WhereUsed usedBy={summary.usedBy} />
        <div className="tabs" role="tablist">
          {tabNames.map((name) => (
            <button
              key={name}
              type="button"
              role="tab"
              aria-selected={name === tab}
              className="tab"
              onClick={() => open(name)}
            >
              {tabs[name]}
              {name === 'rows' && edits.edits.size > 0 && ` (${edits.edits.size} not saved)`}
            </button>
          ))}
        </div>
      </header>
      {tab === 'rows' && <RowsTab table={table} edits={edits} fills={fills} filled={filled} />}
      {tab === 'coverage' && <CoverageTab table={table} onAdd={add} />}
      {tab === 'history' && <HistoryTab table={table} />}
      {tab === 'settings' && <SettingsTab table={table} />}
    </div>
  );
}
