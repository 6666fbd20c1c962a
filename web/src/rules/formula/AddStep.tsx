import { Combobox, useCombobox } from '@mantine/core';
import { IconPlus } from '@tabler/icons-react';
import { useState } from 'react';
import { families } from '@vast-knot/core';
import { stepChoices } from './stepEdits';

/** The functions that can be the next step, found by name or by what they mean. */
export function AddStep({ onAdd }: { readonly onAdd: (key: string) => void }) {
  const [open, setOpen] = useState(false);
  if (open) return <StepChoice onAdd={onAdd} onClose={() => setOpen(false)} />;
  return (
    <button type="button" className="chip add" aria-haspopup="listbox" onClick={() => setOpen(true)}>
      <IconPlus size={12} aria-hidden /> step
    </button>
  );
}

interface StepChoiceProps {
  readonly onAdd: (key: string) => void;
  readonly onClose: () => void;
}

/** Made only when it is asked for: the line at hand is drawn with every keystroke. */
function StepChoice({ onAdd, onClose }: StepChoiceProps) {
  const [search, setSearch] = useState('');
  const combobox = useCombobox({ defaultOpened: true, onDropdownClose: onClose });
  const wanted = search.trim().toLowerCase();
  const fitting = stepChoices.filter(({ label, meaning }) =>
    `${label} ${meaning}`.toLowerCase().includes(wanted),
  );
  const ranked = [...fitting].sort((a, b) => rank(a.label, wanted) - rank(b.label, wanted));
  return (
    <Combobox
      store={combobox}
      width={360}
      position="bottom-start"
      shadow="md"
      onOptionSubmit={(key) => {
        onAdd(key);
        combobox.closeDropdown();
      }}
    >
      <Combobox.Target>
        <button type="button" className="chip add" onClick={() => combobox.closeDropdown()}>
          <IconPlus size={12} aria-hidden /> step
        </button>
      </Combobox.Target>
      <Combobox.Dropdown>
        <Combobox.Search
          size="xs"
          aria-label="Find a step"
          autoFocus
          placeholder="What should happen next? upper, round, date …"
          value={search}
          onChange={(event) => {
            setSearch(event.currentTarget.value);
            combobox.selectFirstOption();
          }}
        />
        <Combobox.Options mah={260} className="scrolls">
          {ranked.length === 0 && <Combobox.Empty>No function means that.</Combobox.Empty>}
          {families.map((family) => {
            const here = ranked.filter((entry) => entry.family === family);
            return here.length === 0 ? null : (
              <Combobox.Group key={family} label={family}>
                {here.map(({ key, label, meaning }) => (
                  <Combobox.Option key={key} value={key}>
                    <strong className="mono">{label}</strong> <span className="small dim">{meaning}</span>
                  </Combobox.Option>
                ))}
              </Combobox.Group>
            );
          })}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}

/** Names that begin with what is typed come first. */
function rank(label: string, wanted: string): number {
  return label.startsWith(wanted) ? 0 : label.includes(wanted) ? 1 : 2;
}
