import { Combobox, useCombobox } from '@mantine/core';
import { IconPlus } from '@tabler/icons-react';
import { useState } from 'react';
import { families } from '@vast-knot/core';
import { stepFunctions } from './stepEdits';

/** The functions that can be the next step, found by name or by what they mean. */
export function AddStep({ onAdd }: { readonly onAdd: (name: string) => void }) {
  const [open, setOpen] = useState(false);
  if (open) return <StepChoice onAdd={onAdd} onClose={() => setOpen(false)} />;
  return (
    <button type="button" className="chip add" aria-haspopup="listbox" onClick={() => setOpen(true)}>
      <IconPlus size={12} aria-hidden /> step
    </button>
  );
}

interface StepChoiceProps {
  readonly onAdd: (name: string) => void;
  readonly onClose: () => void;
}

/** Made only when it is asked for: the line at hand is drawn with every keystroke. */
function StepChoice({ onAdd, onClose }: StepChoiceProps) {
  const [search, setSearch] = useState('');
  const combobox = useCombobox({ defaultOpened: true, onDropdownClose: onClose });
  const wanted = search.trim().toLowerCase();
  const fitting = stepFunctions.filter(({ name, meaning }) =>
    `${name} ${meaning}`.toLowerCase().includes(wanted),
  );
  const ranked = [...fitting].sort((a, b) => rank(a.name, wanted) - rank(b.name, wanted));
  return (
    <Combobox
      store={combobox}
      width={360}
      position="bottom-start"
      shadow="md"
      onOptionSubmit={(name) => {
        onAdd(name);
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
                {here.map(({ name, meaning }) => (
                  <Combobox.Option key={name} value={name}>
                    <strong className="mono">{name.toLowerCase()}</strong>{' '}
                    <span className="small dim">{meaning}</span>
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
function rank(name: string, wanted: string): number {
  const lower = name.toLowerCase();
  return lower.startsWith(wanted) ? 0 : lower.includes(wanted) ? 1 : 2;
}
