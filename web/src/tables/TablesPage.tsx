import { TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { Link, NavLink, useParams, useSearchParams } from 'react-router';
import type { Json, TableView } from '@vast-knot/core';
import { useTables } from '../api/queries';
import { Empty, Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { Value } from '../parts/Value';
import { VirtualRows } from '../parts/VirtualRows';

/** The lookup tables, and the rows of the one at hand. */
export function TablesPage() {
  const { table: name } = useParams();
  const tables = useTables();
  if (tables.isPending) return <Loading />;
  if (tables.isError) return <Failure error={tables.error} again={() => void tables.refetch()} />;
  const table = tables.data.find((each) => each.name === name) ?? tables.data[0];
  if (!table)
    return (
      <Empty title="There are no lookup tables yet">
        A lookup table turns the values of one system into those of another.
      </Empty>
    );
  return (
    <div className="split" style={{ gridTemplateColumns: '250px 1fr' }}>
      <nav aria-label="Tables" style={{ paddingTop: 12 }}>
        {tables.data.map((each) => (
          <NavLink
            key={each.name}
            to={`/tables/${encodeURIComponent(each.name)}`}
            className={`row ${each === table ? 'active' : ''}`}
            style={{ padding: '9px 14px' }}
          >
            <span>{each.name}</span>
            <span className="small dim">{count(each.rows.length, 'row')}</span>
          </NavLink>
        ))}
      </nav>
      <Rows table={table} />
    </div>
  );
}

function Rows({ table }: { readonly table: TableView }) {
  const [params, setParams] = useSearchParams();
  const search = params.get('search') ?? '';
  const shown = table.rows.filter((row) =>
    row.some((cell) =>
      String(cell ?? '')
        .toLowerCase()
        .includes(search.toLowerCase()),
    ),
  );
  const columns = { gridTemplateColumns: `repeat(${table.columns.length}, minmax(0, 1fr))` };
  const row = (cells: readonly Json[]) => (
    <div className="row" style={columns}>
      {cells.map((cell, at) => (
        <span key={at} className="cut">
          <Value json={cell} />
        </span>
      ))}
    </div>
  );
  return (
    <div style={{ display: 'grid', gridTemplateRows: 'auto auto 1fr' }}>
      <div className="page" style={{ paddingBottom: 8 }}>
        <div className="page-head" style={{ marginBottom: 4 }}>
          <h1>{table.name}</h1>
          <span className="dim">{count(table.rows.length, 'row')}</span>
          <TextInput
            className="end"
            aria-label="Search the rows"
            placeholder="Search the rows"
            leftSection={<IconSearch size={13} />}
            value={search}
            onChange={(event) =>
              setParams(event.currentTarget.value === '' ? {} : { search: event.currentTarget.value }, {
                replace: true,
              })
            }
          />
        </div>
        <p className="dim small" style={{ margin: 0 }}>
          Keys are compared {table.matching === 'exact' ? 'exactly' : 'without regard to case'}; a key without
          a row gives {table.onMiss === 'blank' ? 'blank' : 'an error'}.{' '}
          {table.usedBy.length === 0 ? 'No rule reads it.' : 'Read by '}
          {table.usedBy.map(({ id, name }, at) => (
            <span key={id}>
              {at > 0 && ', '}
              <Link to={`/rules/${id}`}>{name}</Link>
            </span>
          ))}
        </p>
      </div>
      <div className="row small dim" style={{ ...columns, background: 'var(--well)', height: 28 }}>
        {table.columns.map((column) => (
          <span key={column.name}>
            {column.label} <span className="mono">{column.name}</span> {column.key && <strong>key</strong>}
          </span>
        ))}
      </div>
      <VirtualRows items={shown} rowHeight={30} label={`Rows of ${table.name}`} row={row} />
    </div>
  );
}
