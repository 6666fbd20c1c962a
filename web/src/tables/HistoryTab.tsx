import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { showCell, type RowChange, type TableView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, tablePath, useTableHistory } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Empty, Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';

/** What was done to the table, when and by whom; each state before can be had again. */
export function HistoryTab({ table }: { readonly table: TableView }) {
  const history = useTableHistory(table.name);
  const client = useQueryClient();
  const mayChange = useMay('tables.change');
  const restore = useMutation({
    mutationFn: (id: number) => ask(`${tablePath(table.name)}/history/${id}/restore`, { method: 'POST' }),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.tables }),
  });
  if (history.isPending) return <Loading />;
  if (history.isError) return <Failure error={history.error} again={() => void history.refetch()} />;
  if (history.data.length === 0) {
    return (
      <Empty title="Nothing was changed yet">
        Every change of the rows is kept here with who made it and when, and can be taken back.
      </Empty>
    );
  }
  return (
    <div className="page under-tabs">
      {restore.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(restore.error)}
        </div>
      )}
      <table className="grid boxed" aria-label="History">
        <thead>
          <tr>
            <th className="w150">When</th>
            <th className="w90">Who</th>
            <th className="w190">What</th>
            <th>Rows</th>
            <th className="w170" />
          </tr>
        </thead>
        <tbody>
          {history.data.map(({ id, at, by, what, added, changed, removed, first }) => (
            <tr key={id}>
              <td>{shortTime(at)}</td>
              <td>{by}</td>
              <td>{what}</td>
              <td>
                {sumOf(added, changed, removed)}
                {first.slice(0, 3).map((change) => (
                  <div key={change.id} className="value dim">
                    {changeText(change)}
                  </div>
                ))}
              </td>
              <td>
                {mayChange && added + changed + removed > 0 && (
                  <Button
                    variant="subtle"
                    loading={restore.isPending && restore.variables === id}
                    onClick={() => restore.mutate(id)}
                  >
                    Restore to before this
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function sumOf(added: number, changed: number, removed: number): string {
  const parts = [
    ...(added > 0 ? [`${count(added, 'row')} added`] : []),
    ...(changed > 0 ? [`${changed} changed`] : []),
    ...(removed > 0 ? [`${removed} removed`] : []),
  ];
  return parts.length === 0 ? 'no rows' : parts.join(', ');
}

function changeText({ before, after }: RowChange): string {
  const text = (cells: NonNullable<RowChange['before']>) => cells.map(showCell).join(' · ');
  if (!before) return `+ ${after ? text(after) : ''}`;
  return after ? `${text(before)} → ${text(after)}` : `− ${text(before)}`;
}
