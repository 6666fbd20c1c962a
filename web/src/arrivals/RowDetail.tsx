import { ActionIcon, Button, TextInput } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import {
  leafFields,
  readPath,
  scalarText,
  type ArrivalRowWhole,
  type ArrivalView,
  type Json,
  type RecordType,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useSystems } from '../api/queries';
import { RuleReports } from '../bench/RuleReports';
import { keepSample } from '../bench/keepSample';
import { useMay } from '../frame/useMay';
import { Failure, Loading } from '../parts/states';
import { Verdict } from '../parts/Verdict';
import { outcomeOf } from './standingWords';
import { useArrivalRow } from './useArrival';

interface RowDetailProps {
  readonly view: ArrivalView;
  readonly at: number;
  readonly close: () => void;
  /** Called when the row is another one. */
  readonly changed: () => void;
}

/** One row in full: its fields, which can be mended here, and what each rule would do with it, step by step. */
export function RowDetail({ view, at, close, changed }: RowDetailProps) {
  const row = useArrivalRow(view.id, at);
  const type = useSystems()
    .data?.find(({ key }) => key === view.system)
    ?.recordTypes.find(({ name }) => name === view.recordType);
  return (
    <aside className="row-detail" aria-label="One row in full">
      {row.isPending && <Loading />}
      {row.isError && <Failure error={row.error} again={() => void row.refetch()} />}
      {row.data && (
        <>
          <header className="list-head">
            <strong>{row.data.row.place}</strong> <span className="mono small">{row.data.row.recordId}</span>
            <Verdict tone={outcomeOf(row.data.row)[0]}>{outcomeOf(row.data.row)[1]}</Verdict>
            <ActionIcon variant="subtle" aria-label="Close this row" className="end" onClick={close}>
              <IconX size={14} />
            </ActionIcon>
          </header>
          {row.data.row.because !== '' && (
            <p className={row.data.row.standing === 'cannot' ? 'note wrong' : 'dim'}>
              {row.data.row.because}
            </p>
          )}
          {row.data.text !== '' && <pre className="mono small as-text">{row.data.text}</pre>}
          {type && row.data.value && (
            <Fields key={view.revision} view={view} type={type} whole={row.data} changed={changed} />
          )}
          {row.data.report && (
            <>
              <h3>What would happen</h3>
              <RuleReports reports={row.data.report.rules} />
              <TakeSample view={view} whole={row.data} />
            </>
          )}
        </>
      )}
    </aside>
  );
}

interface FieldsProps {
  readonly view: ArrivalView;
  readonly type: RecordType;
  readonly whole: ArrivalRowWhole;
  readonly changed: () => void;
}

/** The fields that the row was laid out as; a value is mended by typing another one. */
function Fields({ view, type, whole: { row, problems }, changed }: FieldsProps) {
  const client = useQueryClient();
  const maySend = useMay('files.send');
  const [typed, setTyped] = useState<Readonly<Record<string, string>>>({});
  const mend = useMutation({
    mutationFn: (mends: Readonly<Record<string, string | null>>) =>
      ask<ArrivalRowWhole>(`/arrivals/${view.id}/rows/${row.at}`, { method: 'PATCH', body: { mends } }),
    onSuccess: (whole) => {
      client.setQueryData(keys.arrivalRow(view.id, row.at), whole);
      setTyped({});
      changed();
    },
  });
  const canMend = maySend && row.run === null;
  // Without a key a row is known by its place in the file alone.
  const fields = leafFields(type.fields).filter(({ path }) => path !== type.idField || row.recordId !== null);
  return (
    <form
      aria-label="Fields of the row"
      onSubmit={(event) => {
        event.preventDefault();
        mend.mutate(typed);
      }}
    >
      <table className="grid">
        <thead>
          <tr>
            <th>Field</th>
            <th>Value</th>
          </tr>
        </thead>
        <tbody>
          {fields.map(({ path, label, field }) => {
            const held = row.mends[path] ?? shown(readPath(row.record, path));
            const problem = problems.find((each) => each.field === path)?.because;
            const isMended = row.mends[path] !== undefined;
            return (
              <tr key={path}>
                <td>
                  {label}
                  {isMended && <span className="small dim"> mended here</span>}
                </td>
                <td>
                  {canMend && !field.readOnly ? (
                    <TextInput
                      size="xs"
                      className="mono"
                      aria-label={`${label} of ${row.place}`}
                      value={typed[path] ?? held}
                      error={problem !== undefined}
                      onChange={({ currentTarget: { value } }) =>
                        setTyped((known) => ({ ...known, [path]: value }))
                      }
                    />
                  ) : (
                    <span className="value">{held}</span>
                  )}
                  {problem !== undefined && <div className="small value wrong">{problem}</div>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {Object.keys(typed).length > 0 && (
        <p>
          <Button type="submit" size="xs" color="ember" loading={mend.isPending}>
            Use these values
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setTyped({})}>
            Leave them
          </Button>
        </p>
      )}
      {Object.keys(row.mends).length > 0 && canMend && (
        <p>
          <Button
            size="xs"
            variant="default"
            loading={mend.isPending}
            onClick={() =>
              mend.mutate(Object.fromEntries(Object.keys(row.mends).map((field) => [field, null])))
            }
          >
            As the file has it
          </Button>
        </p>
      )}
      {mend.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(mend.error)}
        </div>
      )}
    </form>
  );
}

const shown = (json: Json | undefined) =>
  Array.isArray(json) ? json.map(scalarText).join('; ') : scalarText(json);

/** Keeps the row as a sample, with the records that its rules meet. */
function TakeSample({
  view,
  whole: { report },
}: {
  readonly view: ArrivalView;
  readonly whole: ArrivalRowWhole;
}) {
  const mayTake = useMay('samples.change');
  const navigate = useNavigate();
  const take = useMutation({
    mutationFn: async () => {
      if (!report) throw new Error('There is nothing to take.');
      return keepSample({ name: `${view.name}, ${report.event.ref.id}`, event: report.event });
    },
    onSuccess: (sample) => void navigate(`/bench/${sample}`),
  });
  if (!mayTake) return null;
  return (
    <p>
      <Button size="xs" variant="default" loading={take.isPending} onClick={() => take.mutate()}>
        Take this row as a sample
      </Button>
      {take.isError && (
        <span className="note wrong" role="alert">
          {sentenceOf(take.error)}
        </span>
      )}
    </p>
  );
}
