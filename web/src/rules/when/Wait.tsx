import { NumberInput } from '@mantine/core';
import type { Trigger } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { count } from '../../parts/time';
import { Phrase } from '../../parts/Phrase';
import type { Narrowing } from './narrowing';

interface WaitProps {
  readonly wait: number | undefined;
  readonly set: (change: Partial<Trigger>) => void;
  readonly drop: (member: Narrowing) => void;
}

/** How long the rule waits for further changes of the same record. */
export function Wait({ wait, set, drop }: WaitProps) {
  const mayChange = useMay('rules.edit');
  if (wait === undefined && !mayChange) return null;
  return (
    <>
      {'; '}
      <Phrase
        says={
          wait === undefined ? 'at once' : `after ${count(wait, 'second')}, with all that changed until then`
        }
        label="How long the rule waits"
        width={300}
      >
        <NumberInput
          label="Seconds to wait"
          description="Further changes of the same record in this time are folded into one."
          value={wait ?? ''}
          min={0}
          max={86_400}
          allowDecimal={false}
          placeholder="none"
          onChange={(value) => (Number(value) > 0 ? set({ wait: Number(value) }) : drop('wait'))}
        />
      </Phrase>
    </>
  );
}
