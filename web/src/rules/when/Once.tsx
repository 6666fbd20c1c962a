import { Radio } from '@mantine/core';
import type { Trigger } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import type { Narrowing } from './narrowing';

interface OnceProps {
  readonly once: boolean;
  readonly set: (change: Partial<Trigger>) => void;
  readonly drop: (member: Narrowing) => void;
}

/** Whether the rule is done for each record by itself, or once for all of them, starting from none. */
export function Once({ once, set, drop }: OnceProps) {
  return (
    <>
      {'; '}
      <Phrase
        says={once ? 'once for all of them' : 'for every one of them'}
        label="How often the rule is done"
        width={320}
      >
        <Radio.Group
          label="How often the rule is done"
          value={once ? 'once' : 'each'}
          onChange={(value) => (value === 'once' ? set({ once: true }) : drop('once'))}
        >
          <Radio
            value="each"
            label="for every one of them"
            description="Its finds start from that record."
            size="xs"
            mt={6}
          />
          <Radio
            value="once"
            label="once for all of them"
            description="It starts from no record; its finds reach those that it needs, for one file or message."
            size="xs"
            mt={6}
          />
        </Radio.Group>
      </Phrase>
    </>
  );
}
