import { Button, Select, TextInput } from '@mantine/core';
import { IconArrowLeft, IconSearch } from '@tabler/icons-react';
import { useState } from 'react';
import { labelAt, leafFields, noRecord, type RecordType, type RecordView, readPath } from '@vast-knot/core';
import { useRecords, useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { AsFile } from '../parts/AsFile';
import { SystemTag } from '../parts/SystemTag';
import { Empty, Failure, Loading } from '../parts/states';
import { Value } from '../parts/Value';
import { VirtualRows } from '../parts/VirtualRows';
import { NewRecord } from './NewRecord';
import { RecordSheet } from './RecordSheet';
import { RunRule } from './run/RunRule';

export interface PaneState {
  readonly system: string;
  readonly recordType: string;
  readonly id?: string;
  readonly search: string;
}

interface RecordPaneProps {
  readonly side: string;
  readonly state: PaneState;
  readonly onState: (state: PaneState) => void;
}

/** One side of the record view: a list of records, or one of them. */
export function RecordPane({ side, state, onState }: RecordPaneProps) {
  const systems = useSystems().data ?? [];
  const mayChange = useMay('records.change');
  const [making, setMaking] = useState(false);
  const system = systems.find(({ key }) => key === state.system);
  const type = system?.recordTypes.find(({ name }) => name === state.recordType);
  const choices = systems.map(({ key, name, recordTypes }) => ({
    group: name,
    items: recordTypes.map((each) => ({ value: `${key}/${each.name}`, label: `${name} · ${each.plural}` })),
  }));
  const choose = (value: string | null) => {
    const [key = '', recordType = ''] = (value ?? '').split('/');
    setMaking(false);
    onState({ system: key, recordType, search: '' });
  };
  return (
    <section aria-label={`${side} side`} className="list-pane">
      <header className="list-head">
        <SystemTag system={state.system} />
        <Select
          aria-label={`${side} side shows`}
          data={choices}
          value={`${state.system}/${state.recordType}`}
          onChange={choose}
          w={220}
        />
        {state.id === undefined ? (
          <TextInput
            aria-label={`Search ${type?.plural ?? 'records'}`}
            placeholder={`Search ${type?.plural.toLowerCase() ?? ''} by name or id`}
            leftSection={<IconSearch size={13} />}
            value={state.search}
            onChange={(event) => onState({ ...state, search: event.currentTarget.value })}
            className="grows"
          />
        ) : null}
        {state.id === undefined && type && system?.reached !== 'inlet' && (
          <AsFile
            narrow
            path={`/lists/records/${state.system}/${encodeURIComponent(state.recordType)}`}
            params={new URLSearchParams({ search: state.search })}
          />
        )}
        {state.id === undefined ? (
          mayChange &&
          type &&
          system?.reached === 'connection' && (
            <Button variant="default" aria-pressed={making} onClick={() => setMaking(!making)}>
              New {type.label.toLowerCase()}
            </Button>
          )
        ) : (
          <Button
            variant="subtle"
            leftSection={<IconArrowLeft size={13} />}
            onClick={() =>
              onState({ system: state.system, recordType: state.recordType, search: state.search })
            }
          >
            All {type?.plural.toLowerCase()}
          </Button>
        )}
      </header>
      {type && state.id === undefined && !making && (
        <div className="list-with-rules">
          <RunRule
            key={`${state.system}/${type.name}`}
            type={type}
            recordRef={{ system: state.system, recordType: type.name, id: noRecord }}
          />
          <RecordList type={type} state={state} onState={onState} />
        </div>
      )}
      {type && state.id === undefined && making && (
        <NewRecord
          key={`${state.system}/${type.name}`}
          system={state.system}
          type={type}
          leave={() => setMaking(false)}
          made={(id) => {
            setMaking(false);
            onState({ ...state, id });
          }}
        />
      )}
      {type && state.id !== undefined && (
        <RecordSheet
          key={`${state.system}/${type.name}/${state.id}`}
          type={type}
          recordRef={{ system: state.system, recordType: type.name, id: state.id }}
        />
      )}
    </section>
  );
}

function RecordList({ type, state, onState }: { readonly type: RecordType } & Omit<RecordPaneProps, 'side'>) {
  const records = useRecords(state.system, type.name, state.search);
  if (records.isPending) return <Loading />;
  if (records.isError) return <Failure error={records.error} again={() => void records.refetch()} />;
  const all = records.data.pages.flatMap((page) => page.records);
  if (all.length === 0)
    return (
      <Empty title={`No ${type.plural.toLowerCase()} ${state.search === '' ? 'yet' : 'found'}`}>
        {state.search === ''
          ? `Once there are ${type.plural.toLowerCase()}, they are listed here.`
          : `Nothing matches “${state.search}”. Search by another name or id.`}
      </Empty>
    );
  const extra = leafFields(type.fields)
    .filter(({ path }) => path !== type.idField && path !== type.nameField)
    .slice(0, 2);
  const row = ({ ref, record }: RecordView) => (
    <button type="button" className="row record-row" onClick={() => onState({ ...state, id: ref.id })}>
      <span className="mono">{ref.id}</span>
      <span className="cut">{String(record[type.nameField] ?? '')}</span>
      {extra.map(({ path, field }) => (
        <span key={path} className="cut">
          <Value json={readPath(record, path)} field={field} />
        </span>
      ))}
    </button>
  );
  const more =
    records.hasNextPage && !records.isFetchingNextPage ? () => void records.fetchNextPage() : undefined;
  return (
    <div className="record-list">
      <div className="row record-row heads">
        {[type.idField, type.nameField, ...extra.map(({ path }) => path)].map((path, at) => (
          <span key={`${path} ${at}`} className="cut" title={path}>
            {labelAt(type.fields, path)}
          </span>
        ))}
      </div>
      <VirtualRows
        items={all}
        keyOf={({ ref }) => ref.id}
        rowHeight={32}
        label={type.plural}
        row={row}
        more={more}
      />
    </div>
  );
}
