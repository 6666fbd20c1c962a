import { Button, Select } from '@mantine/core';
import { writePolicies, type WritePolicy, policyWords } from '@vast-knot/core';
import { count } from '../../parts/time';

interface SelectionBarProps {
  readonly selected: number;
  readonly onCopy: () => void;
  readonly onRemove: () => void;
  readonly onPolicy: (policy: WritePolicy) => void;
  readonly onClear: () => void;
}

/** What can be done with the selected lines. */
export function SelectionBar({ selected, onCopy, onRemove, onPolicy, onClear }: SelectionBarProps) {
  return (
    <div className="bar small" role="toolbar" aria-label="Selected lines">
      <strong>{count(selected, 'line')} selected</strong>
      <Button variant="default" onClick={onCopy}>
        Copy
      </Button>
      <Select
        aria-label="When the selected lines are written"
        placeholder="written …"
        data={writePolicies.map((value) => ({ value, label: policyWords[value] }))}
        value={null}
        onChange={(value) => value && onPolicy(value)}
        w={200}
      />
      <Button variant="subtle" color="rust" onClick={onRemove}>
        Remove
      </Button>
      <Button variant="subtle" onClick={onClear}>
        Select none
      </Button>
      <span className="dim">Copied lines can be pasted into any rule, or into a spreadsheet.</span>
    </div>
  );
}
