import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import type { Suggestion } from '@vast-knot/core';
import { count } from '../../parts/time';

/** Takes all suggestions that are sure enough. */
export function SuggestionBar({
  suggestions,
  onAccept,
}: {
  readonly suggestions: readonly Suggestion[] | undefined;
  readonly onAccept: (accepted: readonly Suggestion[]) => void;
}) {
  const [least, setLeast] = useState('0.8');
  if (!suggestions) {
    return (
      <div className="bar small" role="status">
        Comparing names, types and values …
      </div>
    );
  }
  const sure = suggestions.filter(({ confidence }) => confidence >= Number(least));
  return (
    <div className="bar small" role="status">
      {suggestions.length === 0
        ? 'Nothing is suggested for the fields without a formula.'
        : `${count(suggestions.length, 'suggestion')} from names, types and the values of the samples.`}
      {suggestions.length > 0 && (
        <>
          <Select
            aria-label="How sure a suggestion must be"
            data={['0.9', '0.8', '0.7', '0.6', '0.5'].map((value) => ({
              value,
              label: `at least ${percent(Number(value))}`,
            }))}
            value={least}
            onChange={(value) => setLeast(value ?? '0.8')}
            w={146}
          />
          <Button disabled={sure.length === 0} onClick={() => onAccept(sure)}>
            Accept {sure.length} of them
          </Button>
        </>
      )}
    </div>
  );
}

/** Returns how sure a suggestion is, in words. */
export function percent(confidence: number): string {
  return `${Math.round(confidence * 100)} % sure`;
}
