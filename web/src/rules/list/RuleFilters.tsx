import { Button, Select, TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { memo } from 'react';
import type { SystemView } from '@vast-knot/core';
import type { AddressChanges } from '../../parts/useAddress';
import { groupings, noFolder, type ListedRule, type RuleFilter } from './ruleList';

interface RuleFiltersProps {
  readonly filter: RuleFilter;
  readonly listed: readonly ListedRule[];
  readonly systems: readonly SystemView[];
  readonly put: (changes: AddressChanges) => void;
}

const states = [
  { value: '', label: 'Running or not' },
  { value: 'running', label: 'Running' },
  { value: 'differs', label: 'Draft differs' },
  { value: 'draft', label: 'Not running' },
  { value: 'paused', label: 'Paused' },
];

const findings = [
  { value: '', label: 'Any findings' },
  { value: 'errors', label: 'With errors' },
  { value: 'warnings', label: 'With warnings' },
  { value: 'none', label: 'Nothing found' },
];

const groupNames = { folder: 'By folder', system: 'By system', type: 'By record type' } as const;

/** What the list of rules is narrowed by; all of it stands in the address. */
export function RuleFilters({ filter, listed, systems, put }: RuleFiltersProps) {
  const { search, system, type, state, findings: found, who, folder } = filter;
  const narrowed = Object.values(filter).some((value) => value !== '');
  return (
    <div className="rule-filters" role="group" aria-label="Narrow the list">
      <TextInput
        aria-label="Search the rules"
        placeholder="Name, field, table, system, note"
        leftSection={<IconSearch size={14} />}
        value={search}
        onChange={({ currentTarget }) => put({ search: currentTarget.value })}
        w={214}
      />
      <Choices
        listed={listed}
        systems={systems}
        put={put}
        system={system}
        type={type}
        state={state}
        findings={found}
        who={who}
        folder={folder}
      />
      {narrowed && (
        <Button
          size="compact-sm"
          variant="subtle"
          onClick={() => put(Object.fromEntries(Object.keys(filter).map((name) => [name, ''])))}
        >
          Show all again
        </Button>
      )}
    </div>
  );
}

type ChoicesProps = Omit<RuleFiltersProps, 'filter'> & Omit<RuleFilter, 'search'>;

/** What can be chosen from; it is not drawn anew with each letter of what is searched. */
const Choices = memo(function Choices(props: ChoicesProps) {
  const { listed, systems, put, ...filter } = props;
  const types = new Map(
    listed
      .filter(({ rule }) => filter.system === '' || rule.draft.trigger.system === filter.system)
      .map(({ type, typeName }) => [type, typeName]),
  );
  const people = new Set(
    listed.flatMap(({ rule: { changedBy, published } }) => [changedBy ?? '', published?.by ?? '']),
  );
  people.delete('');
  const folders = new Set(listed.map(({ rule }) => rule.folder));
  return (
    <>
      <Select
        aria-label="System"
        data={[
          { value: '', label: 'All systems' },
          ...systems.map(({ key, name }) => ({ value: key, label: name })),
        ]}
        value={filter.system}
        onChange={(value) => put({ system: value ?? '', type: '' })}
        w={132}
      />
      <Select
        aria-label="Record type"
        searchable
        data={[
          { value: '', label: 'All record types' },
          ...[...types].map(([value, label]) => ({ value, label })),
        ]}
        value={types.has(filter.type) ? filter.type : ''}
        onChange={(value) => put({ type: value ?? '' })}
        w={160}
      />
      <Select
        aria-label="State"
        data={states}
        value={filter.state}
        onChange={(value) => put({ state: value ?? '' })}
        w={136}
      />
      <Select
        aria-label="Findings"
        data={findings}
        value={filter.findings}
        onChange={(value) => put({ findings: value ?? '' })}
        w={126}
      />
      <Select
        aria-label="Who edited or published"
        data={[{ value: '', label: 'Anybody' }, ...[...people].sort()]}
        value={people.has(filter.who) ? filter.who : ''}
        onChange={(value) => put({ who: value ?? '' })}
        w={116}
      />
      <Select
        aria-label="Folder"
        data={[
          { value: '', label: 'All folders' },
          ...[...folders]
            .sort()
            .map((folder) => ({ value: folder || noFolder, label: folder || 'In no folder' })),
        ]}
        value={filter.folder}
        onChange={(value) => put({ folder: value ?? '' })}
        w={120}
      />
    </>
  );
});

interface GroupChoiceProps {
  readonly group: string;
  readonly put: (changes: AddressChanges) => void;
}

/** What the rules of the list stand together by. */
export function GroupChoice({ group, put }: GroupChoiceProps) {
  return (
    <Select
      aria-label="Group"
      data={[
        { value: '', label: 'In their order' },
        ...groupings.map((value) => ({ value, label: groupNames[value] })),
      ]}
      value={group}
      onChange={(value) => put({ group: value ?? '' })}
      w={136}
    />
  );
}
