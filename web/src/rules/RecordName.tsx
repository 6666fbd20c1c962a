import { TextInput } from '@mantine/core';
import { useState } from 'react';
import { nameProblem, renamed } from '@vast-knot/core';
import { useSheetTools } from './SheetContext';

interface RecordNameProps {
  readonly label: string;
  readonly name: string;
}

/**
 * The name of a found or created record. It changes once it is whole (Enter, or on leaving the field), and then in every formula and action
 * that names the record as well.
 */
export function RecordName({ label, name }: RecordNameProps) {
  const { edit, current } = useSheetTools();
  const [typed, setTyped] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const commit = (to: string) => {
    const wrong = nameProblem(current(), name, to);
    setProblem(wrong);
    if (wrong !== undefined) return;
    setTyped(undefined);
    if (to !== name) edit((body) => renamed(body, name, to));
  };
  return (
    <TextInput
      label={label}
      mt={8}
      value={typed ?? name}
      error={problem}
      maxLength={40}
      onChange={({ currentTarget }) => setTyped(currentTarget.value)}
      onBlur={({ currentTarget }) => commit(currentTarget.value.trim())}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit(event.currentTarget.value.trim());
        if (event.key !== 'Escape' || typed === undefined) return;
        event.stopPropagation();
        setTyped(undefined);
        setProblem(undefined);
      }}
    />
  );
}
