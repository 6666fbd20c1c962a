import { Button } from '@mantine/core';
import { Link, NavLink, useParams, useSearchParams } from 'react-router';
import { useTables } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Empty, Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { NewTable } from './NewTable';
import { TablePlace } from './TablePlace';

/** The lookup tables, and the one at hand. */
export function TablesPage() {
  const { table: name } = useParams();
  const [params] = useSearchParams();
  const mayChange = useMay('tables.change');
  const tables = useTables();
  if (tables.isPending) return <Loading />;
  if (tables.isError) return <Failure error={tables.error} again={() => void tables.refetch()} />;
  const making = params.get('new') === 'yes' && mayChange;
  const table = making ? undefined : (tables.data.find((each) => each.name === name) ?? tables.data[0]);
  return (
    <div className="split tables-beside">
      <nav aria-label="Tables" className="side-list">
        {tables.data.map((each) => (
          <NavLink
            key={each.name}
            to={`/tables/${encodeURIComponent(each.name)}`}
            className={`row side-entry ${each === table ? 'active' : ''}`}
          >
            <span>{each.name}</span>
            <span className="small dim">{count(each.rowCount, 'row')}</span>
          </NavLink>
        ))}
        {mayChange && (
          <Button component={Link} to="/tables?new=yes" variant="subtle" m={10}>
            New table
          </Button>
        )}
      </nav>
      {table ? (
        <TablePlace key={table.name} summary={table} />
      ) : making ? (
        <NewTable />
      ) : (
        <Empty title="There are no lookup tables yet">
          A lookup table turns the values of one system into those of another. Begin one on the left.
        </Empty>
      )}
    </div>
  );
}
