import { Button, SegmentedControl, Select, TextInput } from '@mantine/core';
import { IconBulb } from '@tabler/icons-react';
import { memo } from 'react';
import { useMay } from '../../frame/useMay';
import type { LedgerView } from './useLedgerView';

interface LedgerToolbarProps {
  readonly view: LedgerView;
  readonly fields: number;
  readonly lines: number;
}

/** What of a ledger is shown, in what order, and how. */
export const LedgerToolbar = memo(function LedgerToolbar({ view, fields, lines }: LedgerToolbarProps) {
  const mayChange = useMay('rules.edit');
  const { put } = view;
  return (
    <div className="ledger-tools">
      <Select
        aria-label="Fields shown"
        data={[
          { value: 'all', label: `All ${fields} fields` },
          { value: 'made', label: `${lines} with a formula` },
          { value: 'open', label: 'Without a formula' },
          { value: 'changes', label: 'Those that would change' },
          { value: 'findings', label: 'Those with findings' },
        ]}
        value={view.show}
        onChange={(value) => put({ show: value === 'all' ? '' : (value ?? '') })}
        w={168}
      />
      <TextInput
        aria-label="Find a field"
        placeholder="Find a field"
        value={view.search}
        onChange={(event) => put({ field: event.currentTarget.value })}
        w={112}
      />
      <Select
        aria-label="Order of the fields"
        data={[
          { value: 'made', label: 'Formulas first' },
          { value: 'schema', label: 'As in the system' },
          { value: 'name', label: 'By name' },
        ]}
        value={view.sort}
        onChange={(value) => put({ sort: value === 'made' ? '' : (value ?? '') })}
        w={126}
      />
      <Select
        aria-label="Grouped by"
        data={[
          { value: 'none', label: 'Not grouped' },
          { value: 'state', label: 'By state' },
          { value: 'type', label: 'By type' },
        ]}
        value={view.group}
        onChange={(value) => put({ group: value === 'none' ? '' : (value ?? '') })}
        w={108}
      />
      <SegmentedControl
        size="xs"
        aria-label="Formulas are shown as"
        data={[
          { value: 'steps', label: 'Steps' },
          { value: 'text', label: 'Text' },
        ]}
        value={view.as}
        onChange={(value) => put({ as: value === 'steps' ? '' : value })}
      />
      {mayChange && (
        <Button
          variant={view.suggesting ? 'filled' : 'default'}
          leftSection={<IconBulb size={14} />}
          aria-pressed={view.suggesting}
          onClick={() => put({ suggest: view.suggesting ? '' : 'yes' })}
        >
          Suggest
        </Button>
      )}
    </div>
  );
});
