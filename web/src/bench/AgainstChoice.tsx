import { SegmentedControl, Select } from '@mantine/core';
import { useRules, useVersions } from '../api/queries';
import { shortTime } from '../parts/time';
import { versionKey, type Against } from './rulesAgainst';
import { useAddress } from '../parts/useAddress';

const choices: readonly { readonly value: Against; readonly label: string }[] = [
  { value: 'published', label: 'As published' },
  { value: 'drafts', label: 'As edited' },
  { value: 'both', label: 'What editing changes' },
];

/** Which rules take part; it stands in the address. */
export function AgainstChoice({ against }: { readonly against: Against }) {
  const [params, put] = useAddress();
  const versions = useVersions().data ?? [];
  const rules = useRules().data ?? [];
  const choose = (value: string) => put({ against: value === 'published' ? '' : value });
  const nameOf = (id: string) => rules.find((rule) => rule.id === id)?.draft.name ?? id;
  return (
    <>
      <SegmentedControl
        size="xs"
        aria-label="Which rules take part"
        data={[...choices]}
        value={against === 'earlier' ? '' : against}
        onChange={choose}
      />
      {versions.length > 0 && (
        <Select
          aria-label="An earlier version takes part"
          placeholder="An earlier version…"
          searchable
          clearable
          w={190}
          comboboxProps={{ width: 360, position: 'bottom-end' }}
          data={versions.map((version) => ({
            value: versionKey(version),
            label: `${nameOf(version.rule)}, version ${version.version} (${shortTime(version.at)}, ${version.by})`,
          }))}
          value={against === 'earlier' ? params.get('against') : null}
          onChange={(value) => choose(value ?? 'published')}
        />
      )}
    </>
  );
}
