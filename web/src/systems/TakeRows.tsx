import { Button, FileButton } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { RecordType, RowsTaken } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';

/** Takes a CSV file whose rows start rules; the first row names the fields. */
export function TakeRows({ system, type }: { readonly system: string; readonly type: RecordType }) {
  const mayChange = useMay('files.send');
  const take = useMutation({
    mutationFn: async (file: File) =>
      ask<RowsTaken>(
        `/inlets/${system}/${encodeURIComponent(type.name)}/rows?name=${encodeURIComponent(file.name)}`,
        { method: 'POST', csv: await file.text() },
      ),
  });
  if (!mayChange) return null;
  return (
    <div className="take-rows">
      <FileButton accept=".csv,text/csv" onChange={(file) => file && take.mutate(file)}>
        {(props) => (
          <Button {...props} variant="default" size="compact-sm" loading={take.isPending}>
            Take the rows of a file
          </Button>
        )}
      </FileButton>{' '}
      {take.isError && <span className="value wrong">{sentenceOf(take.error)}</span>}
      {take.data && (
        <span role="status">
          {count(take.data.taken, 'row')} taken
          {take.data.before > 0 && `, ${take.data.before} taken before`}
          {take.data.malformed.length > 0 &&
            `, ${take.data.malformed.length} not understood (row ${take.data.malformed[0]?.row ?? ''}: ${take.data.malformed[0]?.because ?? ''})`}
          . <Link to={`/runs?system=${system}`}>See the runs</Link>
        </span>
      )}
    </div>
  );
}
