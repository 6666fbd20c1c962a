import { Button, Checkbox } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { showCell, type ImportPreview, type Row, type TableView } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { keys, tablePath } from '../api/queries';
import { Loading } from '../parts/states';
import { count } from '../parts/time';

interface ImportPanelProps {
  readonly table: TableView;
  readonly file: { readonly name: string; readonly text: string };
  readonly onClose: () => void;
}

/** What a file would do to the table, before it is done. */
export function ImportPanel({ table, file, onClose }: ImportPanelProps) {
  const client = useQueryClient();
  const [remove, setRemove] = useState(false);
  const preview = useQuery({
    queryKey: [...keys.tables, table.name, 'import', table.revision, file.text],
    queryFn: () =>
      ask<ImportPreview>(`${tablePath(table.name)}/csv/preview`, { method: 'POST', csv: file.text }),
    retry: false,
    gcTime: 0,
  });
  const apply = useMutation({
    mutationFn: (revision: number) =>
      ask(`${tablePath(table.name)}/csv${remove ? '?remove=yes' : ''}`, {
        method: 'POST',
        csv: file.text,
        ifMatch: revision,
      }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: keys.tables });
      onClose();
    },
  });
  return (
    <section className="page" aria-label="Import">
      <div className="page-head">
        <h2>
          Import <span className="mono">{file.name}</span>
        </h2>
        <span className="end">
          <Button variant="subtle" onClick={onClose}>
            Cancel
          </Button>
        </span>
      </div>
      {preview.isPending && <Loading />}
      {preview.isError && <Mistakes error={preview.error} />}
      {preview.data && (
        <>
          <p className="said">
            {count(preview.data.counts.added, 'row')} added, {preview.data.counts.changed} changed,{' '}
            {preview.data.counts.same} the same. {count(preview.data.counts.removed, 'row')} of the table{' '}
            {preview.data.counts.removed === 1 ? 'is' : 'are'} not in the file.
          </p>
          {preview.data.counts.removed > 0 && (
            <Checkbox
              size="xs"
              mb={8}
              label="Remove the rows that are not in the file"
              checked={remove}
              onChange={(event) => setRemove(event.currentTarget.checked)}
            />
          )}
          <Button
            color="ember"
            loading={apply.isPending}
            onClick={() => apply.mutate(preview.data.revision)}
            mb={10}
          >
            Apply
          </Button>
          {apply.isError && (
            <div className="note wrong" role="alert">
              {sentenceOf(apply.error)}
            </div>
          )}
          <Differences table={table} preview={preview.data} remove={remove} />
        </>
      )}
    </section>
  );
}

/** Every mistake of the file, by row; nothing of it is taken. */
function Mistakes({ error }: { readonly error: unknown }) {
  const errors = error instanceof ApiProblem ? (error.problem.errors ?? []) : [];
  return (
    <div className="note wrong" role="alert">
      <strong>Nothing is imported: the file has to be mended first.</strong>
      <ul>
        {errors.length === 0 && <li>{sentenceOf(error)}</li>}
        {errors.map(({ message }) => (
          <li key={message}>{message}</li>
        ))}
      </ul>
    </div>
  );
}

function Differences({
  table,
  preview,
  remove,
}: {
  readonly table: TableView;
  readonly preview: ImportPreview;
  readonly remove: boolean;
}) {
  const cells = (row: Row, before?: Row) =>
    table.columns.map(({ name }, at) => (
      <td key={name} className="value">
        {before && before[at] !== row[at] ? (
          <>
            {showCell(before[at]) || 'blank'}
            <span className="arrow">→</span>
            <span className="value will">{showCell(row[at]) || 'blank'}</span>
          </>
        ) : (
          showCell(row[at])
        )}
      </td>
    ));
  return (
    <table className="grid boxed" aria-label="What the file changes">
      <thead>
        <tr>
          <th />
          {table.columns.map(({ name, label }) => (
            <th key={name}>{label}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {preview.changed.map(({ before, after }, at) => (
          <tr key={`changed ${at}`}>
            <td className="dim">changed</td>
            {cells(after, before)}
          </tr>
        ))}
        {preview.added.map((row, at) => (
          <tr key={`added ${at}`}>
            <td className="verdict will">added</td>
            {cells(row)}
          </tr>
        ))}
        {remove &&
          preview.removed.map((row, at) => (
            <tr key={`removed ${at}`} className="removed">
              <td className="verdict wrong">removed</td>
              {cells(row)}
            </tr>
          ))}
      </tbody>
    </table>
  );
}
