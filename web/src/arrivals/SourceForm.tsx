import { Button, Checkbox, PasswordInput, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { FileOrigin, FileSource, FileSourceView, Schedule, System } from '@vast-knot/core';
import { sentenceOf } from '../api/client';
import { RecordTypeSelect } from '../parts/RecordTypeSelect';
import { SchedulePhrase } from '../parts/SchedulePhrase';
import { zoneHere } from '../parts/zoneHere';
import { useSourceDeeds } from './useSources';

const early = (at: string): Schedule => ({ at, zone: zoneHere(), days: [] });

const originOf = (kind: FileOrigin['kind'], folders: readonly string[]): FileOrigin =>
  kind === 'address'
    ? { kind, url: '', header: '', schedule: early('06:00') }
    : { kind, folder: folders[0] ?? '', pattern: '*' };

/** Returns a source of which nothing is said yet. */
export function newSource(inlets: readonly System[], folders: readonly string[]): FileSource {
  const [inlet] = inlets;
  return {
    name: '',
    origin: originOf('address', folders),
    system: inlet?.key ?? '',
    recordType: inlet?.recordTypes[0]?.name ?? '',
    apply: false,
    expected: null,
  };
}

interface SourceFormProps {
  readonly start: FileSource;
  /** The source that is changed; absent for a new one. */
  readonly existing?: FileSourceView;
  readonly inlets: readonly System[];
  readonly folders: readonly string[];
  readonly hasSecret: boolean;
  readonly leave: () => void;
}

/** Where files come from, what they become, and by when one is expected. */
export function SourceForm({ start, existing, inlets, folders, hasSecret, leave }: SourceFormProps) {
  const [said, setSaid] = useState(start);
  const [secret, setSecret] = useState<string>();
  const deeds = useSourceDeeds();
  const put = (part: Partial<FileSource>) => setSaid((known) => ({ ...known, ...part }));
  const { origin, expected } = said;
  const body = { ...said, name: said.name.trim(), ...(secret !== undefined && { secret }) };
  const keep = () =>
    existing
      ? deeds.change.mutate({ id: existing.id, revision: existing.revision, body }, { onSuccess: leave })
      : deeds.add.mutate(body, { onSuccess: leave });
  const failure = deeds.add.error ?? deeds.change.error;
  return (
    <form
      className="source-form"
      aria-label={existing ? `Change ${existing.name}` : 'Where else files come from'}
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <TextInput
        label="Name"
        value={said.name}
        maxLength={80}
        required
        onChange={({ currentTarget: { value } }) => put({ name: value })}
      />
      <RecordTypeSelect
        label="Each record becomes"
        systems={inlets}
        value={{ system: said.system, recordType: said.recordType }}
        named
        onChange={(place) => put(place)}
      />
      <Select
        label="Files come"
        className="whole"
        data={[
          { value: 'address', label: 'from an address' },
          { value: 'folder', label: 'from a folder of the server' },
        ]}
        value={origin.kind}
        allowDeselect={false}
        onChange={(kind) => put({ origin: originOf(kind === 'folder' ? 'folder' : 'address', folders) })}
      />
      {origin.kind === 'address' ? (
        <FromAddress
          {...{ origin, hasSecret, secret, setSecret }}
          put={(part) => put({ origin: { ...origin, ...part } })}
        />
      ) : (
        <FromFolder {...{ origin, folders }} put={(part) => put({ origin: { ...origin, ...part } })} />
      )}
      <Checkbox
        label="What can be applied is, without a person"
        checked={said.apply}
        onChange={({ currentTarget: { checked } }) => put({ apply: checked })}
      />
      <div>
        <Checkbox
          label="One is expected"
          checked={expected !== null}
          onChange={({ currentTarget: { checked } }) => put({ expected: checked ? early('09:00') : null })}
        />
        {expected && (
          <SchedulePhrase
            schedule={expected}
            change={(schedule) => put({ expected: schedule })}
            label="By when one is expected"
            right="systems.change"
          />
        )}
      </div>
      {failure && (
        <div className="note wrong whole" role="alert">
          {sentenceOf(failure)}
        </div>
      )}
      <div className="side-by-side whole">
        <Button type="submit" color="ember" loading={deeds.add.isPending || deeds.change.isPending}>
          Keep it
        </Button>
        <Button variant="subtle" onClick={leave}>
          Not now
        </Button>
      </div>
    </form>
  );
}

type OriginOf<K extends FileOrigin['kind']> = Extract<FileOrigin, { readonly kind: K }>;

interface FromAddressProps {
  readonly origin: OriginOf<'address'>;
  readonly put: (part: Partial<OriginOf<'address'>>) => void;
  readonly hasSecret: boolean;
  readonly secret: string | undefined;
  readonly setSecret: (secret: string | undefined) => void;
}

function FromAddress({ origin, put, hasSecret, secret, setSecret }: FromAddressProps) {
  return (
    <>
      <TextInput
        label="Address"
        className="whole"
        placeholder="https://"
        value={origin.url}
        required
        onChange={({ currentTarget: { value } }) => put({ url: value.trim() })}
      />
      <TextInput
        label="Header that carries its secret"
        placeholder="none; or such as Authorization"
        value={origin.header}
        onChange={({ currentTarget: { value } }) => put({ header: value.trim() })}
      />
      <PasswordInput
        label="The secret"
        placeholder={hasSecret ? 'kept; type another one to change it' : ''}
        value={secret ?? ''}
        disabled={origin.header === ''}
        autoComplete="off"
        onChange={({ currentTarget: { value } }) => setSecret(value === '' ? undefined : value)}
      />
      <p className="flush whole">
        It is fetched{' '}
        <SchedulePhrase
          schedule={origin.schedule}
          change={(schedule) => put({ schedule })}
          label="When it is fetched"
          right="systems.change"
        />
        .
      </p>
    </>
  );
}

interface FromFolderProps {
  readonly origin: OriginOf<'folder'>;
  readonly folders: readonly string[];
  readonly put: (part: Partial<OriginOf<'folder'>>) => void;
}

function FromFolder({ origin, folders, put }: FromFolderProps) {
  return folders.length === 0 ? (
    <p className="whole">
      The settings of the server name no folder yet: whoever runs it says with{' '}
      <span className="mono">FOLDERS</span> which ones may be watched.
    </p>
  ) : (
    <>
      <Select
        label="Folder"
        data={[...folders]}
        value={origin.folder}
        allowDeselect={false}
        onChange={(folder) => folder !== null && put({ folder })}
      />
      <TextInput
        label="Files called"
        description="* stands for any characters"
        inputWrapperOrder={['label', 'input', 'description']}
        value={origin.pattern}
        required
        onChange={({ currentTarget: { value } }) => put({ pattern: value })}
      />
    </>
  );
}
